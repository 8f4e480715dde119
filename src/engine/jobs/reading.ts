import { boundsOf, evaluate, stepOf } from "@/core/reading/evaluate";
import type { Picks } from "@/core/reading/language/conditions";
import { parseReading } from "@/core/reading/language/parse";
import { type MeasureNode, measuresOf, type ReadingTree } from "@/core/reading/language/tree";
import type { ReadingResult } from "@/core/reading/result";
import type { Source } from "@/core/reading/source";
import { stepBounds } from "@/core/window/steps";
import type { Loader } from "../load";
import { loaderOf, type Surroundings } from "../surroundings";

/** One reading over a window. */
export interface ReadingJob {
  type: "reading";
  text: string;
  from: number;
  to: number;
  every: number | null;
  zone: string;
  picks: Picks;
}

/** @throws ReadingError, TooMuchError */
export function answerReading(around: Surroundings, job: ReadingJob): Promise<ReadingResult> {
  return readWith(loaderOf(around, job.picks), job);
}

/** A reading that is understood, with the steps over which its measures are asked. */
export interface Prepared {
  tree: ReadingTree;
  measures: MeasureNode[];
  every: number;
  steps: Float64Array;
}

/** @throws ReadingError */
export async function prepare(loader: Loader, job: Omit<ReadingJob, "type">): Promise<Prepared> {
  const tree = parseReading(job.text);
  const measures = measuresOf(tree.expression);
  let interval = 0;
  if (job.every === null && measures.every(({ every }) => every === null)) {
    for (const node of measures) interval = Math.max(interval, await loader.interval(node, job.from, job.to));
  }
  const every = stepOf(tree, job, interval);
  return { tree, measures, every, steps: stepBounds(job.from, job.to, every, job.zone) };
}

/** What a reading says, without the reason where that is nothing. */
async function evaluated(
  loader: Loader,
  job: Omit<ReadingJob, "type">,
  { tree, measures, every, steps }: Prepared,
): Promise<{ result: ReadingResult; sources: Map<MeasureNode, Source> }> {
  const sources = new Map<MeasureNode, Source>();
  for (const node of measures) sources.set(node, await loader.source(node, job.from, job.to, boundsOf(node, steps)));
  return { result: evaluate(tree, job, every, sources), sources };
}

/** @throws ReadingError, TooMuchError */
export async function readPrepared(
  loader: Loader,
  job: Omit<ReadingJob, "type">,
  prepared: Prepared,
): Promise<ReadingResult> {
  const { result, sources } = await evaluated(loader, job, prepared);
  if (result.series.length === 0 && !result.warnings.some(({ code }) => code === "unmatched")) {
    for (const [node, source] of sources) result.warnings.push(await loader.whyEmpty(node, source, job));
  }
  return result;
}

/** Answers a reading with a loader that others share. @throws ReadingError, TooMuchError */
export async function readWith(loader: Loader, job: Omit<ReadingJob, "type">): Promise<ReadingResult> {
  return readPrepared(loader, job, await prepare(loader, job));
}

/** The series of a reading, for who does not ask why there are none. @throws ReadingError, TooMuchError */
export async function seriesWith(loader: Loader, job: Omit<ReadingJob, "type">): Promise<ReadingResult["series"]> {
  return (await evaluated(loader, job, await prepare(loader, job))).result.series;
}
