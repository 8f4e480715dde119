import { endLeftovers, forget, remember } from "./lib/leftovers.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { ensurePackages } from "./lib/packages.mjs";
import { ensureFree, ports } from "./lib/ports.mjs";
import { askedToStop, Family } from "./lib/run.mjs";
import { main } from "./lib/say.mjs";

/** For developers: database, intake, and pages that reload as they are edited. */
main(async () => {
  const stop = askedToStop();
  await endLeftovers();
  await ensureFree("web", "intake", "grpc");
  await ensurePackages([...(process.env.DATABASE_URL ? [] : ["postgresql"]), "jemalloc"]);
  await ensureModules();
  const { bundle } = await import("./lib/build.mjs");
  const { accessLink, openDatabase, startSystem } = await import("./lib/system.mjs");
  const database = await openDatabase();
  const family = new Family();
  try {
    await bundle();
    const env = await startSystem(family, {
      databaseUrl: database.url,
      intakePort: ports.intake.value,
      grpcPort: ports.grpc.value,
      webPort: ports.web.value,
      dev: true,
    });
    remember(family.children);
    const link = await accessLink("first-owner", env);
    const first = link === "" ? "" : `  Nobody has an account yet; this address makes the first owner: ${link}\n`;
    process.stdout.write(`\n  Tin Ladder (development) is at http://localhost:${ports.web.value}\n${first}\n`);
    await stop;
  } finally {
    await family.end();
    await database.stop();
    forget();
  }
});
