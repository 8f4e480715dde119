import { createHash } from "node:crypto";
import { statSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { boundsOf } from "@/core/reading/evaluate";
import { encoded } from "../encoded";
import type { Loader } from "../load";
import { LOOK_BACK } from "../reports";
import { loaderOf, type Surroundings } from "../surroundings";
import { type Prepared, prepare, type ReadingJob, readPrepared } from "./reading";

/** One reading over a window, of which the asker may hold the answer already. */
export interface VersionedJob extends Omit<ReadingJob, "type"> {
  type: "versioned reading";
  /** The version of the answer that the asker holds; null: none. */
  known: string | null;
}

export interface VersionedAnswer {
  /** A ReadingResult as JSON; null: what the asker holds is the answer still. */
  value: Uint8Array | null;
  /** The same as long as the answer is the same; null where that may change by the clock alone. */
  version: string | null;
}

/** Another build, whose file this is, may answer otherwise. */
const BUILT_AT = statSync(fileURLToPath(import.meta.url)).mtimeMs;

/** Answers a reading unless the asker holds the answer: then nothing is fetched nor computed. @throws ReadingError, TooMuchError */
export async function answerVersioned(around: Surroundings, job: VersionedJob): Promise<VersionedAnswer> {
  const loader = loaderOf(around, job.picks);
  const prepared = await prepare(loader, job);
  // What is near now changes as instances report, or do not.
  const stands = job.to < Date.now() - LOOK_BACK;
  const version = stands ? await versionOf(loader, job, prepared) : null;
  if (version !== null && version === job.known) return { value: null, version };
  const value = await readPrepared(loader, job, prepared);
  // Why there is nothing may change by what lies outside the window.
  return { value: encoded(value), version: value.series.length > 0 ? version : null };
}

async function versionOf(
  loader: Loader,
  { from, to, zone, picks, text }: VersionedJob,
  { measures, every, steps }: Prepared,
): Promise<string> {
  const hash = createHash("sha256").update(JSON.stringify([BUILT_AT, text, from, to, every, zone, picks]));
  for (const node of measures)
    hash.update(JSON.stringify(await loader.stripsOf(node, from, to, boundsOf(node, steps))));
  return hash.digest("base64url").slice(0, 24);
}
