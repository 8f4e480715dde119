import { randomBytes } from "node:crypto";
import { existsSync, mkdirSync, openSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { startCluster } from "./cluster.mjs";
import { JEMALLOC } from "./packages.mjs";
import { ports } from "./ports.mjs";
import { answers, root } from "./run.mjs";
import { step } from "./say.mjs";

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

/** What each process may hold, MiB: one that wants more ends, and is started again. */
const MAX_HEAP_MB = 768;

/** For how long an idle connection stays open: longer than who calls keeps it, so that nobody sends into a closing one. */
const KEEP_ALIVE_MS = 75_000;

/** Collects when a heap is half as large again as what lives in it: the intake has five, and usually each may grow fourfold. */
const SMALL = ["--heap-growing-percent=50"];

/** Starts the intake and the web process, or those of them that are wanted, and waits until they answer. */
export async function startSystem(
  family,
  {
    databaseUrl,
    intakePort,
    grpcPort,
    webPort,
    logs = path.join(root, ".data"),
    dev = false,
    kinds = ["intake", "web"],
  },
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
  };
  mkdirSync(logs, { recursive: true });
  const log = (name) => (dev ? undefined : openSync(path.join(logs, `${name}.log`), "a"));
  // For our own processes, and not for those that they or tests start.
  const own = { ...env, ...memoryStore() };
  const heap = `--max-old-space-size=${MAX_HEAP_MB}`;
  if (kinds.includes("intake"))
    family.start("intake", process.execPath, [heap, ...SMALL, "--enable-source-maps", ".build/intake.js"], {
      env: own,
      log: log("intake"),
    });
  const next = path.join(root, "node_modules/next/dist/bin/next");
  if (kinds.includes("web"))
    family.start(
      "web",
      process.execPath,
      [
        ...(dev ? [] : [heap]),
        next,
        ...(dev ? ["dev"] : ["start", "--keepAliveTimeout", String(KEEP_ALIVE_MS)]),
        ...["-H", "127.0.0.1", "-p", String(webPort)],
      ],
      {
        env: own,
        log: log("web"),
      },
    );
  if (kinds.includes("intake")) await answers(`http://127.0.0.1:${intakePort}/health`);
  if (kinds.includes("web")) await answers(`http://127.0.0.1:${webPort}/api/health`);
  return env;
}
