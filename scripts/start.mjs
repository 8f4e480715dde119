import path from "node:path";
import { endLeftovers, forget, remember } from "./lib/leftovers.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { ensurePackages } from "./lib/packages.mjs";
import { ensureFree, ports } from "./lib/ports.mjs";
import { PROCESSES, processesOf } from "./lib/programs.mjs";
import { askedToStop, root, together } from "./lib/run.mjs";
import { main, Stop, step } from "./lib/say.mjs";
import { settingOf } from "./lib/settings.mjs";

/**
 * Tin Ladder for a team, without a demonstration: npm start [-- --only intake|web]. Data lie in TIN_DATA_DIR, or in the
 * database that DATABASE_URL names; what ends is started again.
 */

const KINDS = PROCESSES.map(({ name }) => name);

/** Which kinds of process to run here. */
function kindsAsked(args) {
  const only = [];
  for (let i = 0; i < args.length; i++) {
    if (args[i] !== "--only")
      throw new Stop(`${args[i]} is not understood; there is --only ${KINDS.join(" and --only ")}`);
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
  const data = path.resolve(root, settingOf("TIN_DATA_DIR"));
  const list = path.join(data, "running.json");
  await endLeftovers(list);
  const wanted = processesOf(kinds);
  await ensureFree(...wanted.flatMap((one) => one.ports));
  await together(
    ensurePackages([...(process.env.DATABASE_URL ? [] : ["postgresql"]), "jemalloc"]),
    ensureModules({ tests: false }),
  );
  const { bundle, buildPages } = await import("./lib/build.mjs");
  const { accessLink, openDatabase, startSystem } = await import("./lib/system.mjs");
  const { Supervisor } = await import("./lib/supervisor.mjs");
  const database = await openDatabase(data);
  const supervisor = new Supervisor(() => remember(supervisor.children, list));
  try {
    await together(bundle(), wanted.some(({ pages }) => pages) ? buildPages() : undefined);
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
    const env = await Promise.race([system, stop]);
    const at = { webPort: ports.web.value, intakePort: ports.intake.value };
    const lines = wanted.map(({ says }) => `  ${says(at)}\n`).reverse();
    const link = env && wanted.some(({ pages }) => pages) ? await accessLink("first-owner", env) : "";
    const first =
      link === ""
        ? ""
        : `  Nobody has an account yet. This address makes the first owner, once, within a day:\n  ${link}\n`;
    process.stdout.write(`\n${lines.join("")}${first}  Ctrl-C stops it.\n\n`);
    await stop;
    step("Stopping");
  } finally {
    await supervisor.end();
    await database.stop();
    forget(list);
  }
});
