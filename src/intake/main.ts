import pino from "pino";
import { Dictionary } from "@/core/otlp/dictionary";
import { Committer } from "@/store/commit";
import { connect } from "@/store/connect";
import { MERGE_EVERY, mergePass } from "@/store/merge";
import { migrateStore } from "@/store/migrate";
import { CommitQueue } from "./queue";
import { createReceiver } from "./server";

/** The intake process: receives, writes, and keeps the store in order. Any number may run on one database. */

const log = pino({ name: "intake", level: process.env.LOG_LEVEL ?? "info" });
const port = Number(process.env.TIN_INTAKE_PORT ?? 4318);
const pool = connect();
await migrateStore(pool);

const committer = new Committer(pool);
/** SQLSTATE classes 22 (data) and 23 (integrity): the content was refused; anything else is the store's trouble. */
const isContentError = (error: unknown) => /^2[23]/.test(String((error as { code?: unknown }).code));
const queue = new CommitQueue((batches) => committer.commit(batches), isContentError);
const receiver = createReceiver({
  dictionary: new Dictionary(),
  queue,
  report: (error) => log.error(error, "request failed"),
});

let stopping = false;

async function upkeep(): Promise<void> {
  while (!stopping) {
    await new Promise((resolve) => setTimeout(resolve, MERGE_EVERY).unref());
    if (stopping) return;
    await mergePass(pool, Date.now(), () => stopping).catch((error) => log.error(error, "merging failed"));
  }
}

receiver.on("error", (error: NodeJS.ErrnoException) => {
  const taken = error.code === "EADDRINUSE";
  log.fatal(taken ? `port ${port} is taken; choose another with TIN_INTAKE_PORT` : error);
  process.exit(1);
});
receiver.listen(port, "127.0.0.1", () => {
  log.info(`receiving OTLP on http://127.0.0.1:${port}/v1/metrics`);
  void upkeep();
});

async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  receiver.close();
  receiver.closeIdleConnections();
  await queue.idle();
  await pool.end();
  process.exit(0);
}
process.on("SIGTERM", () => void stop());
process.on("SIGINT", () => void stop());
