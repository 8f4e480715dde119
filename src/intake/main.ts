import pino from "pino";
import { type CopyAnswer, type CopyQuestion, copyQuestion } from "@/core/api/copies";
import { isLoopbackAddress } from "@/core/http/served";
import { Absences } from "@/core/otlp/absences";
import { Dictionary } from "@/core/otlp/dictionary";
import { Overflow } from "@/core/otlp/overflow";
import { checkSettings, setting } from "@/core/settings/environment";
import { SettingError } from "@/core/settings/settings";
import { MINUTE } from "@/core/window/lengths";
import { Committer } from "@/store/commit";
import { connect } from "@/store/database/connect";
import { isContentError } from "@/store/database/contentError";
import { migrateStore } from "@/store/database/migrate";
import { HOLDER } from "@/store/jobs/job";
import type { JobReport } from "@/store/jobs/repeatJob";
import { answerPage } from "./export/answerPage";
import type { FromExporting, ToExporting } from "./export/exportWorker";
import { askedByHouse, askedByPages } from "./fromPages";
import { OwnMetrics } from "./ownMetrics";
import { LiveLane } from "./pipeline/liveLane";
import { Authenticator } from "./receive/authenticator";
import { Budget } from "./receive/budget";
import { Certificate } from "./receive/certificate";
import { createGrpcReceiver, listenGrpc } from "./receive/grpc";
import { CommitQueue } from "./receive/queue";
import type { ReceiverParts } from "./receive/receive";
import { Refusals } from "./receive/refusals";
import { RetentionLimits } from "./receive/retentionLimits";
import { createReceiver, jsonAnswer } from "./receive/server";
import type { TrialMessage, TrialReply } from "./scrape/scrapeWorker";
import { Trials } from "./scrape/trials";
import { SupervisedWorker } from "./supervisedWorker";
import { WorkerRpc } from "./workerRpc";

/** The intake process: receives, writes, and keeps the store in order. Any number may run on one database. */

const log = pino({ name: "intake", level: setting("LOG_LEVEL") });
process.on("uncaughtException", (error) => {
  log.fatal(error, error instanceof SettingError ? error.message : "the intake ends");
  process.exit(1);
});
/** Bytes that all requests in work may hold together. */
const MAX_BYTES = 256 * 1024 * 1024;
/** How long reading another backend's copy may take, ms. */
const COPY_TIMEOUT = MINUTE;
checkSettings();
const port = setting("TIN_INTAKE_PORT");
/** 0: no gRPC. */
const grpcPort = setting("TIN_INTAKE_GRPC_PORT");
const host = setting("TIN_INTAKE_HOST");
const beyond = !isLoopbackAddress(host);
const certificate = certificateToShow();
if (beyond && !certificate && setting("TIN_ALLOW_HTTP") !== "yes")
  throw new SettingError(
    `TIN_INTAKE_HOST is ${host}: keys would go over the network as they are; give the intake TIN_TLS_CERT and TIN_TLS_KEY, or set TIN_ALLOW_HTTP=yes`,
  );
const pool = connect();
await migrateStore(pool);

const dictionary = new Dictionary();
const overflow = new Overflow(dictionary, Date.now(), `intake ${HOLDER}`);
const committer = new Committer(pool, { series: setting("TIN_SERIES_LIMIT"), overflow });
const keep = new RetentionLimits(pool);
const queue = new CommitQueue(
  (batches) => committer.commit(batches),
  isContentError,
  (error) => log.warn(error, "some of what came cannot be stored"),
  setting("TIN_WAITING_POINTS"),
);
const lane = new LiveLane(pool, dictionary, (error) => log.error(error, "the pipeline cannot be read"));
await lane.start();
const own = new OwnMetrics(dictionary, queue, `intake ${HOLDER}`, () => lane.counts());
const gate = new Authenticator(pool, beyond);
void gate.listen();
const refusals = new Refusals(pool);
const budget = new Budget(MAX_BYTES);
const upkeep = new SupervisedWorker<never, JobReport>(
  "./upkeep-worker.js",
  (report) => own.upkeep(report),
  (error) => log.error(error, "upkeep failed"),
);
const scraping = new SupervisedWorker<TrialMessage, TrialReply>(
  "./scrape-worker.js",
  (reply) => trials.heard(reply),
  (error) => log.error(error, "scraping failed"),
);
const closing = new SupervisedWorker<never, JobReport>(
  "./pipeline-worker.js",
  (report) => own.upkeep(report),
  (error) => log.error(error, "the pipeline failed"),
);
const exporting = new SupervisedWorker<ToExporting, FromExporting>(
  "./export-worker.js",
  (said) => {
    if ("report" in said) own.exported(said.report);
    else copies.heard(said.number, said.answer);
  },
  (error) => log.error(error, "exporting failed"),
);
const copies = new WorkerRpc<CopyQuestion, CopyAnswer>((number, question) => exporting.say({ number, question }));
const trials = new Trials(pool, budget, (message) => scraping.say(message));
const parts: ReceiverParts = {
  keysOnly: beyond,
  dictionary,
  absences: new Absences(dictionary),
  queue,
  lane,
  budget,
  admission: (environment) => keep.admission(Date.now(), environment),
  recordAdmission: (environment) => keep.recordAdmission(Date.now(), environment),
  environmentOf: (authorization) => gate.environmentOf(authorization),
  report: (error, fault) => log.error({ err: error, ...(fault && { fault }) }, "request failed"),
  answered: (signal, status, accepted, rejected) => own.answered(signal, status, accepted, rejected),
  rejected: (address, agent, request, status, reason) => refusals.note(address, agent, request, status, reason),
};
const receiver = createReceiver(
  parts,
  async (path, request) => {
    if (path.startsWith("/exports/")) return answerPage(pool, lane.config, path, request);
    if (path === "/health") return jsonAnswer({ status: "up" });
    if (path === "/running") {
      askedByHouse(request);
      return jsonAnswer({ pipeline: lane.running });
    }
    if (path === "/copies")
      return jsonAnswer(await copies.ask(await askedByPages(copyQuestion, request, budget), COPY_TIMEOUT));
    const tried = await trials.answer(path, request);
    return tried && jsonAnswer(tried);
  },
  certificate,
);
const grpcReceiver = createGrpcReceiver(parts);

/** The threads of this process beside the one that receives. */
const threads = [upkeep, scraping, closing, exporting];
let stopping = false;

receiver.on("error", (error: NodeJS.ErrnoException) => {
  const taken = error.code === "EADDRINUSE";
  log.fatal(taken ? `port ${port} is taken; choose another with TIN_INTAKE_PORT` : error);
  process.exit(1);
});
if (grpcPort > 0) {
  await listenGrpc(grpcReceiver, grpcPort, host, certificate).catch((error: Error) => {
    log.fatal(`port ${grpcPort} cannot be used for gRPC (${error.message}); choose another with TIN_INTAKE_GRPC_PORT`);
    process.exit(1);
  });
  log.info(`receiving OTLP over gRPC on ${host}:${grpcPort}`);
}
receiver.listen(port, host, () => {
  log.info(`receiving OTLP on ${certificate ? "https" : "http"}://${host}:${port}/v1/metrics`);
  for (const thread of threads) thread.start();
  own.start();
});

/** What callers are shown, where the settings name it. @throws SettingError where only a part of it is named */
function certificateToShow(): Certificate | null {
  const [cert, key] = [setting("TIN_TLS_CERT"), setting("TIN_TLS_KEY")];
  if ((cert === null) !== (key === null))
    throw new SettingError("TIN_TLS_CERT and TIN_TLS_KEY belong together: set both or neither");
  if (cert === null || key === null) return null;
  return new Certificate({ certificate: cert, key }, (error) =>
    log.error(error, "the certificate changed and cannot be used; the one before is shown on"),
  );
}

async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  own.stop();
  receiver.close();
  receiver.closeIdleConnections();
  grpcReceiver.tryShutdown(() => {});
  await queue.idle();
  await Promise.all([committer.heardLog.write(), refusals.write()]).catch(() => {});
  await Promise.all(threads.map((thread) => thread.stop()));
  lane.stop();
  await pool.end();
  process.exit(0);
}
process.on("SIGTERM", () => void stop());
process.on("SIGINT", () => void stop());
