import { ENDED } from "../access/ended";
import { CONFORMANCE } from "../contracts/conformance";
import { CLOSING } from "../pipeline/windowCloser";
import { forgetting } from "../registry/forgetSeries";
import { OLD_SHEETS } from "../sheets/sheets";
import { PURGING } from "../strips/purge";
import { SUMMING } from "../summary/summing";
import type { BackgroundJob } from "./job";
import { HOURS, MERGING, RETENTION } from "./upkeep";

/** What the upkeep thread of every intake tries to do. A background job is one line here. */
export const UPKEEP: readonly BackgroundJob[] = [
  MERGING,
  HOURS,
  PURGING,
  CONFORMANCE,
  SUMMING,
  forgetting(),
  RETENTION,
  ENDED,
  OLD_SHEETS,
];

/** The jobs of the watch: see src/watch. */
export const DRIFT = { name: "drift", does: "look for what changed without a release" };
export const OUTLOOK = { name: "outlook", does: "look at how the newest releases do" };

/** What each job does, in words, by its name; the pipeline's has a thread of its own. */
export const JOB_WORDS: ReadonlyMap<string, string> = new Map(
  [...UPKEEP, CLOSING, OUTLOOK, DRIFT].map(({ name, does }) => [name, does]),
);
