/** Kinds of work, each with its own idea of what is slow. */
export const WORK = ["calls", "outgoing", "database", "messages"] as const;
export type Work = (typeof WORK)[number];

/** What counts as slow until someone says otherwise, s. */
export const DEFAULT_SLOW: Record<Work, number> = { calls: 0.5, outgoing: 1, database: 0.1, messages: 5 };

/** A duration as readings write it: in the largest unit that leaves a whole number. */
export function written(seconds: number): string {
  if (Number.isInteger(seconds)) return `${seconds} s`;
  const ms = seconds * 1000;
  return Math.abs(ms - Math.round(ms)) < 1e-9 ? `${Math.round(ms)} ms` : `${seconds} s`;
}
