/** The address of a comparison. @param carried what goes along from page to page, such as ?last=6h */
export function comparisonAddress(
  carried: string,
  {
    service,
    environment,
    release,
    against,
  }: { service: string; environment: string; release: string; against: string },
): string {
  const parameters = new URLSearchParams(carried);
  parameters.set("service", service);
  if (environment !== "") parameters.set("environment", environment);
  parameters.set("release", release);
  parameters.set("against", against);
  return `/releases/two?${parameters}`;
}
