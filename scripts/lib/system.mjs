import { randomBytes } from "node:crypto";
import { existsSync, mkdirSync, openSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { startCluster } from "./cluster.mjs";
import { JEMALLOC } from "./packages.mjs";
import { ports } from "./ports.mjs";
import { processesOf } from "./programs.mjs";
import { answers, root, run } from "./run.mjs";
import { Stop, step } from "./say.mjs";

/** The database of this start: the user's own, or our private cluster in a folder of data. */
export async function openDatabase(data) {
  if (process.env.DATABASE_URL) {
    step("Using the database in DATABASE_URL");
    return { url: process.env.DATABASE_URL, stop: async () => {} };
  }
  return startCluster({ data, port: ports.database.value });
}

/** The key under which secrets are kept: that in the environment, or one of our own that stays with the data. */
function secretKey(data) {
  if (process.env.TIN_SECRET_KEY) return process.env.TIN_SECRET_KEY;
  const file = path.join(data, "secret-key");
  if (!existsSync(file)) {
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, randomBytes(32).toString("hex"), { mode: 0o600 });
  }
  return readFileSync(file, "utf8").trim();
}

/**
 * Whose store of memory our processes use. The usual one keeps what each thread took for itself; where the other is not
 * there, the threads share one.
 */
function memoryStore() {
  if (!existsSync(JEMALLOC)) return { MALLOC_ARENA_MAX: "1" };
  return { LD_PRELOAD: JEMALLOC, MALLOC_CONF: "narenas:2,dirty_decay_ms:2000,muzzy_decay_ms:0,background_thread:true" };
}

/** @throws Stop with every setting that cannot be used */
async function checkSettings(env) {
  const { settingMistakes } = await import(path.join(root, ".build", "settings.js"));
  const mistakes = settingMistakes({ ...process.env, ...env });
  if (mistakes.length > 0) throw new Stop(mistakes.join("\n  "));
}

/**
 * An address that works once: "first-owner" makes the first account ("" where there is one), "demonstration" signs in to
 * look around.
 *
 * @param env what startSystem gave
 */
export function accessLink(task, env) {
  return run(process.execPath, ["--enable-source-maps", ".build/access.js", task], { quiet: true, env });
}

/** Starts the processes of a system, or those of them that are wanted, with settings besides, and waits until they answer. */
export async function startSystem(
  family,
  { databaseUrl, intakePort, grpcPort, webPort, logs = path.join(root, ".data"), dev = false, kinds },
  settings = {},
) {
  const env = {
    DATABASE_URL: databaseUrl,
    TIN_INTAKE_PORT: String(intakePort),
    TIN_INTAKE_GRPC_PORT: String(grpcPort),
    TIN_WEB_PORT: String(webPort),
    TIN_SECRET_KEY: secretKey(logs),
    TIN_EXPORT_DIR: process.env.TIN_EXPORT_DIR ?? path.join(logs, "exports"),
    NEXT_TELEMETRY_DISABLED: "1",
    NODE_ENV: dev ? "development" : "production",
    ...settings,
  };
  await checkSettings(env);
  mkdirSync(logs, { recursive: true });
  const fileOf = (name) => (dev ? undefined : path.join(logs, `${name}.log`));
  const log = (name) => (dev ? undefined : openSync(fileOf(name), "a"));
  // For our own processes, and not for those that they or tests start.
  const own = { ...env, ...memoryStore() };
  const wanted = processesOf(kinds);
  const at = { intakePort, webPort, dev };
  for (const { name, command, env: more = {} } of wanted)
    family.start(name, process.execPath, command(at), {
      env: { ...own, ...more },
      log: log(name),
      logFile: fileOf(name),
    });
  for (const { ready } of wanted) if (ready(at)) await answers(ready(at));
  return env;
}
