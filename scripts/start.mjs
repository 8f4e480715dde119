import path from "node:path";
import { endLeftovers, forget, remember } from "./lib/leftovers.mjs";
import { ensureModules, ensurePackages } from "./lib/packages.mjs";
import { ensureFree, ports } from "./lib/ports.mjs";
import { askedToStop, root } from "./lib/run.mjs";
import { main, Stop, step } from "./lib/say.mjs";

/**
 * Tin Ladder for a team, without a demonstration: npm start [-- --only intake|web]. Data lie in TIN_DATA_DIR, or in the
 * database that DATABASE_URL names; what ends is started again.
 */

const KINDS = ["intake", "web"];

/** Which kinds of process to run here. */
function kindsAsked(args) {
  const only = [];
  for (let i = 0; i < args.length; i++) {
    if (args[i] !== "--only") throw new Stop(`${args[i]} is not understood; there is --only intake and --only web`);
    const kind = args[++i];
    if (!KINDS.includes(kind)) throw new Stop(`--only takes ${KINDS.join(" or ")}, not ${kind ?? "nothing"}`);
    only.push(kind);
  }
  if (only.length > 0 && !process.env.DATABASE_URL)
    throw new Stop("--only is for several machines on one database: set DATABASE_URL to it");
  return only.length > 0 ? only : KINDS;
}

main(async () => {
  const stop = askedToStop();
  const kinds = kindsAsked(process.argv.slice(2));
  const data = path.resolve(root, process.env.TIN_DATA_DIR ?? ".data/start");
  const list = path.join(data, "running.json");
  await endLeftovers(list);
  await ensureFree(...(kinds.includes("web") ? ["web"] : []), ...(kinds.includes("intake") ? ["intake", "grpc"] : []));
  await ensurePackages([...(process.env.DATABASE_URL ? [] : ["postgresql"]), "jemalloc"]);
  await ensureModules();
  const { bundle, buildPages } = await import("./lib/build.mjs");
  const { openDatabase, startSystem } = await import("./lib/system.mjs");
  const { Supervisor } = await import("./lib/supervisor.mjs");
  const database = await openDatabase(data);
  const supervisor = new Supervisor(() => remember(supervisor.children, list));
  try {
    await bundle();
    if (kinds.includes("web")) await buildPages();
    step(`Starting ${kinds.join(" and ")}`);
    if (database.home) supervisor.keepDatabase(database);
    const system = startSystem(supervisor, {
      databaseUrl: database.url,
      intakePort: ports.intake.value,
      grpcPort: ports.grpc.value,
      webPort: ports.web.value,
      logs: data,
      kinds,
    });
    await Promise.race([system, stop]);
    if (kinds.includes("web")) process.stdout.write(`\n  Tin Ladder is at http://localhost:${ports.web.value}\n`);
    if (kinds.includes("intake"))
      process.stdout.write(`  It receives OTLP at http://localhost:${ports.intake.value} — Ctrl-C stops it.\n\n`);
    await stop;
    step("Stopping");
  } finally {
    await supervisor.end();
    await database.stop();
    forget(list);
  }
});
