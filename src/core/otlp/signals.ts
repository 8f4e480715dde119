/** What is told apart: each has a lane of its own. */
export const SIGNALS = ["metrics", "traces", "logs"] as const;
export type Signal = (typeof SIGNALS)[number];
