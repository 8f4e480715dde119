import type { ServicePlace } from "./sections";

/** The service in hand: that of an address, in the environment where it is known; else the first of those there are. */
export function placeIn(
  known: readonly ServicePlace[],
  service: string | null,
  environment: string | null,
): ServicePlace | null {
  if (service === null)
    return known.length > 0 ? { service: known[0].service, environment: known[0].environment } : null;
  const found = known.find(
    (one) => one.service === service && (environment === null || one.environment === environment),
  );
  return { service, environment: environment ?? found?.environment ?? "" };
}
