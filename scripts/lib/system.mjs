import { mkdirSync, openSync } from "node:fs";
import path from "node:path";
import { startCluster } from "./cluster.mjs";
import { ports } from "./ports.mjs";
import { answers, root } from "./run.mjs";
import { step } from "./say.mjs";

/** The database of this start: the user's own, or our private cluster. */
export async function openDatabase() {
  if (process.env.DATABASE_URL) {
    step("Using the database in DATABASE_URL");
    return { url: process.env.DATABASE_URL, stop: async () => {} };
  }
  return startCluster({ port: ports.database.value });
}

/** Starts the intake and the web process and waits until both answer. */
export async function startSystem(
  family,
  { databaseUrl, intakePort, webPort, logs = path.join(root, ".data"), dev = false },
) {
  const env = {
    DATABASE_URL: databaseUrl,
    TIN_INTAKE_PORT: String(intakePort),
    TIN_WEB_PORT: String(webPort),
    NEXT_TELEMETRY_DISABLED: "1",
    NODE_ENV: dev ? "development" : "production",
  };
  mkdirSync(logs, { recursive: true });
  const log = (name) => (dev ? undefined : openSync(path.join(logs, `${name}.log`), "a"));
  family.start("intake", process.execPath, ["--enable-source-maps", ".build/intake.js"], { env, log: log("intake") });
  const next = path.join(root, "node_modules/next/dist/bin/next");
  family.start("web", process.execPath, [next, dev ? "dev" : "start", "-H", "127.0.0.1", "-p", String(webPort)], {
    env,
    log: log("web"),
  });
  await answers(`http://127.0.0.1:${intakePort}/health`);
  await answers(`http://127.0.0.1:${webPort}/api/health`);
  return env;
}
