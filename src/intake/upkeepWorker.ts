import { parentPort } from "node:worker_threads";
import pino from "pino";
import { setting } from "@/core/settings/environment";
import { connect } from "@/store/database/connect";
import { UPKEEP } from "@/store/jobs/all";
import { repeatJob } from "@/store/jobs/repeatJob";

/** The intake's second thread: keeps the store in order, so that merging never holds up what is received. */

const log = pino({ name: "upkeep", level: setting("LOG_LEVEL") });
/** Each job holds one connection for its lock and works on another. */
const pool = connect({ max: 10 });
let stopping = false;

parentPort?.on("message", (message) => {
  if (message === "stop") stopping = true;
});
for (const job of UPKEEP) void repeatJob({ pool, log, stopped: () => stopping }, job);
