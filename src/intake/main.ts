import { Worker } from "node:worker_threads";
import pino from "pino";
import { Dictionary } from "@/core/otlp/dictionary";
import { Overflow } from "@/core/otlp/overflow";
import { Committer } from "@/store/commit";
import { connect } from "@/store/connect";
import { HOLDER } from "@/store/jobs";
import { migrateStore } from "@/store/migrate";
import { Budget } from "./budget";
import { KeepTimes } from "./keepTimes";
import { OwnMetrics } from "./ownMetrics";
import { CommitQueue } from "./queue";
import { createReceiver } from "./server";
import type { JobReport } from "./upkeep";

/** The intake process: receives, writes, and keeps the store in order. Any number may run on one database. */

const log = pino({ name: "intake", level: process.env.LOG_LEVEL ?? "info" });
/** Bytes that all requests in work may hold together. */
const MOST_BYTES = 256 * 1024 * 1024;
const port = Number(process.env.TIN_INTAKE_PORT ?? 4318);
const pool = connect();
await migrateStore(pool);

const dictionary = new Dictionary();
const overflow = new Overflow(dictionary, Date.now(), `intake ${HOLDER}`);
const committer = new Committer(pool, { series: Number(process.env.TIN_SERIES_LIMIT ?? 10_000), overflow });
const keep = new KeepTimes(pool);
/** SQLSTATE classes 22 (data) and 23 (integrity): the content was refused; anything else is the store's trouble. */
const isContentError = (error: unknown) => /^2[23]/.test(String((error as { code?: unknown }).code));
const queue = new CommitQueue((batches) => committer.commit(batches), isContentError);
const own = new OwnMetrics(dictionary, queue, `intake ${HOLDER}`);
const receiver = createReceiver({
  dictionary,
  queue,
  budget: new Budget(MOST_BYTES),
  allowedTimes: () => keep.allowedTimes(Date.now()),
  report: (error) => log.error(error, "request failed"),
  answered: (status, accepted, rejected) => own.answered(status, accepted, rejected),
});

let stopping = false;

/** The second thread; where it fails, another takes its place. */
let upkeep: Worker | null = null;
function startUpkeep(): void {
  upkeep = new Worker(new URL("./upkeep.js", import.meta.url));
  upkeep.on("message", (report: JobReport) => own.upkeep(report));
  upkeep.on("error", (error) => log.error(error, "upkeep failed"));
  upkeep.on("exit", () => {
    upkeep = null;
    if (!stopping) setTimeout(startUpkeep, 5000);
  });
}

receiver.on("error", (error: NodeJS.ErrnoException) => {
  const taken = error.code === "EADDRINUSE";
  log.fatal(taken ? `port ${port} is taken; choose another with TIN_INTAKE_PORT` : error);
  process.exit(1);
});
receiver.listen(port, "127.0.0.1", () => {
  log.info(`receiving OTLP on http://127.0.0.1:${port}/v1/metrics`);
  startUpkeep();
  own.start();
});

async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  own.stop();
  receiver.close();
  receiver.closeIdleConnections();
  await queue.idle();
  await upkeep?.terminate();
  await pool.end();
  process.exit(0);
}
process.on("SIGTERM", () => void stop());
process.on("SIGINT", () => void stop());
