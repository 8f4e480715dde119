/** Numbers out of the environment: what is set to something else is said before anything starts. */

/** A setting that cannot be used. */
export class SettingError extends Error {
  override name = "SettingError";
}

/** What a number may be. */
export interface Range {
  usual: number;
  least: number;
  most: number;
}

/**
 * A whole number that a variable sets, or the usual one where it is not set.
 *
 * @throws SettingError with the variable, what it says, and what it may say
 */
export function wholeNumber(
  name: string,
  { usual, least, most }: Range,
  environment: Readonly<Record<string, string | undefined>>,
): number {
  const text = environment[name]?.trim() ?? "";
  if (text === "") return usual;
  const value = /^\d+$/.test(text) ? Number(text) : Number.NaN;
  if (value >= least && value <= most) return value;
  throw new SettingError(`${name} is set to "${text}"; a whole number from ${least} to ${most} is expected`);
}

/** What each variable may be set to. */
export const RANGES = {
  TIN_INTAKE_PORT: { usual: 4318, least: 1, most: 65_535 },
  /** 0: no gRPC. */
  TIN_INTAKE_GRPC_PORT: { usual: 4317, least: 0, most: 65_535 },
  TIN_SERIES_LIMIT: { usual: 10_000, least: 1, most: 10_000_000 },
  TIN_ENGINE_CACHE_MB: { usual: 256, least: 8, most: 65_536 },
} as const satisfies Record<string, Range>;
