import pino from "pino";
import { checkSettings, setting } from "@/core/settings/environment";
import { connect } from "@/store/database/connect";
import { migrateStore } from "@/store/database/migrate";
import { repeatJob } from "@/store/jobs/repeatJob";
import { watching } from "./jobs";

/** The watch: looks at releases by itself, so that what it finds is there before anybody asks. */

const log = pino({ name: "watch", level: setting("LOG_LEVEL") });
process.on("uncaughtException", (error) => {
  log.fatal(error, "the watch ends");
  process.exit(1);
});

checkSettings();
/** A job holds one connection for its lock and works on another. */
const pool = connect({ max: 4 });
let stopping = false;
await migrateStore(pool);

for (const job of watching(log)) void repeatJob({ pool, log, stopped: () => stopping }, job);
log.info("the watch looks at releases");

function stop(): void {
  stopping = true;
  setTimeout(() => process.exit(0), 2000).unref();
  void pool.end().finally(() => process.exit(0));
}
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
