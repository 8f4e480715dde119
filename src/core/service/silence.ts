import type { InstanceEntry } from "../api/services";

/** Longest that it takes until a report shows here, ms. */
const DELAY = 2500;
/** Reports that may be missing before an instance counts as silent. */
const MISSING = 3;

/** For how long an instance has been silent, ms; 0 while it reports as usual. */
export function silence({ lastAt, every }: Pick<InstanceEntry, "lastAt" | "every">, now: number): number {
  const quiet = now - lastAt;
  return quiet > MISSING * (every ?? 60_000) + DELAY ? quiet : 0;
}
