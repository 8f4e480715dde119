import { openSync } from "node:fs";
import path from "node:path";
import { endLeftovers, forget, remember } from "./lib/leftovers.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { ensurePackages } from "./lib/packages.mjs";
import { ensureFree, ports } from "./lib/ports.mjs";
import { askedToStop, inTwoParts, root, together } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";
import { accessLink, openDatabase, startSystem } from "./lib/system.mjs";

/**
 * Decoded columns that each thread of the engine keeps for a look, MiB: a day of the costliest metric takes some 100, and less
 * than that is decoded anew for each reading.
 */
const CACHE_MB = "128";

/** Everything for a look: database, build, fourteen days of history, the application, and live traffic. */
main(async () => {
  const stop = askedToStop();
  process.env.TIN_ENGINE_CACHE_MB ??= CACHE_MB;
  await endLeftovers();
  await ensureFree("web", "intake", "grpc");
  let database;
  let family;
  const databaseReady = async () => {
    await ensurePackages([...(process.env.DATABASE_URL ? [] : ["postgresql"]), "jemalloc"]);
    database = await openDatabase();
  };
  try {
    await together(databaseReady(), ensureModules({ tests: false }));
    const { bundle, buildPages } = await import("./lib/build.mjs");
    const { Supervisor } = await import("./lib/supervisor.mjs");
    family = new Supervisor(() => remember(family.children));
    const history = () => inTwoParts(".build/history.js", { env: { DATABASE_URL: database.url } });
    const [, restOfHistory] = await together(buildPages(), bundle().then(history));
    if (database.home) family.keepDatabase(database);
    step("Starting intake and pages");
    const env = await startSystem(family, {
      databaseUrl: database.url,
      intakePort: ports.intake.value,
      grpcPort: ports.grpc.value,
      webPort: ports.web.value,
    });
    const link = await accessLink("demonstration", env);
    step("Starting the Fern & Anvil programs");
    await restOfHistory();
    family.start("demonstration", process.execPath, [".build/drive.js"], {
      env: { ...env, OTEL_EXPORTER_OTLP_ENDPOINT: `http://127.0.0.1:${ports.intake.value}` },
      log: openSync(path.join(root, ".data/demonstration.log"), "a"),
    });
    process.stdout.write(
      `\n  Tin Ladder is at http://localhost:${ports.web.value}\n  This address signs you in once, as an owner: ${link}\n  It receives OTLP at http://localhost:${ports.intake.value} — Ctrl-C stops everything.\n\n`,
    );
    await stop;
    step("Stopping");
  } finally {
    await family?.end();
    await database?.stop();
    forget();
  }
});
