import { parentPort } from "node:worker_threads";
import pino from "pino";
import { Dictionary } from "@/core/otlp/dictionary";
import { Overflow } from "@/core/otlp/overflow";
import { Committer } from "@/store/commit";
import { connect } from "@/store/database/connect";
import { isContentError } from "@/store/database/contentError";
import { setNumber } from "@/store/database/environment";
import { HOLDER } from "@/store/jobs/jobs";
import { CLOSE_WINDOWS_EVERY, WindowCloser } from "@/store/pipeline/windowCloser";
import { OwnMetrics } from "../ownMetrics";
import { CommitQueue } from "../receive/queue";
import type { JobReport } from "../upkeepWorker";

/** The intake's fourth thread: closes the windows of the pipeline's steps. */

const log = pino({ name: "pipeline", level: process.env.LOG_LEVEL ?? "info" });
const pool = connect({ max: 6 });
const overflow = new Overflow(new Dictionary(), Date.now(), `pipeline ${HOLDER}`);
const committer = new Committer(pool, { series: setNumber("TIN_SERIES_LIMIT"), overflow });
const keeper = new WindowCloser(pool, committer);
const queue = new CommitQueue(
  (batches) => committer.commit(batches),
  isContentError,
  (error) => log.warn(error, "some of what came cannot be stored"),
);
const own = new OwnMetrics(new Dictionary(), queue, `pipeline ${HOLDER}`, () => keeper.counts(), false);

async function main(): Promise<never> {
  own.start();
  for (;;) {
    const began = Date.now();
    try {
      const result = await keeper.pass();
      const took = Date.now() - began;
      if (result)
        parentPort?.postMessage({ job: "pipeline", took, ...result, waiting: 0, failed: false } satisfies JobReport);
    } catch (error) {
      log.error(error, "the pipeline failed");
      const took = Date.now() - began;
      const report: JobReport = { job: "pipeline", took, done: 0, backlog: 0, waiting: 0, failed: true };
      parentPort?.postMessage(report);
    }
    await new Promise((resolve) => setTimeout(resolve, CLOSE_WINDOWS_EVERY));
  }
}

void main();
