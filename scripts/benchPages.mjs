import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync, rmSync } from "node:fs";
import path from "node:path";
import { freePort } from "./lib/freePort.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { makeOwner } from "./lib/owner.mjs";
import { ensurePackages } from "./lib/packages.mjs";
import { answers, Family, root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/**
 * Measures how long pages take in Chromium, against the commit before on the same store in the same run. BENCH_AGAINST
 * names another commit, BENCH_ROUNDS how often each page is opened.
 */

const git = (...args) => execFileSync("git", args, { cwd: root, encoding: "utf8" }).trim();

/** Another commit in a folder of its own, built; node_modules are the ones here, linked file by file. */
async function buildBefore(folder, commit) {
  git("worktree", "add", "--detach", "--force", folder, commit);
  execFileSync("cp", ["-al", path.join(root, "node_modules"), path.join(folder, "node_modules")]);
  const build =
    "const { bundle, buildPages } = await import('./scripts/lib/build.mjs'); await bundle(); await buildPages();";
  await run(process.execPath, ["--input-type=module", "-e", build], {
    cwd: folder,
    quiet: true,
  });
}

const figures = ({ first, whole }) => `${Math.round(first)}${whole === undefined ? "" : ` / ${Math.round(whole)}`}`;

main(async () => {
  await ensurePackages(["postgresql", "chromium"]);
  await ensureModules();
  const { bundle, buildPages } = await import("./lib/build.mjs");
  const { startCluster } = await import("./lib/cluster.mjs");
  const { launch, timePages } = await import("./lib/pageTimes.mjs");
  const { timeLargeSheet } = await import("./lib/sheetTimes.mjs");
  const dirty = git("status", "--porcelain", "--", "src") !== "";
  const commit = process.env.BENCH_AGAINST ?? (dirty ? "HEAD" : "HEAD~1");
  const data = path.join(root, ".data", `bench-pages-${process.pid}`);
  const before = path.join(data, "before");
  mkdirSync(data, { recursive: true });
  const family = new Family();
  const database = await startCluster({ data, port: await freePort() });
  try {
    await bundle();
    await buildPages();
    step(`Building ${commit} beside it`);
    await buildBefore(before, commit);
    step("Fourteen days of history");
    await run(process.execPath, ["--enable-source-maps", ".build/history.js"], { env: { DATABASE_URL: database.url } });
    const bases = [];
    const common = { DATABASE_URL: database.url, TIN_SECRET_KEY: "of a benchmark", NODE_ENV: "production" };
    for (const folder of [before, root]) {
      const port = await freePort();
      family.start(
        "web",
        process.execPath,
        // A commit of before the web was a program of its own starts the framework's.
        existsSync(path.join(folder, ".build/web.js"))
          ? [".build/web.js"]
          : ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port)],
        {
          cwd: folder,
          env: { ...common, TIN_WEB_PORT: String(port) },
        },
      );
      bases.push(`http://127.0.0.1:${port}`);
      await answers(`${bases.at(-1)}/api/health`);
    }
    const port = new URL(bases.at(-1)).port;
    const session = await makeOwner({ ...common, TIN_WEB_PORT: port });
    step("Opening pages, ms until the first chart or row / until the page is whole");
    const rounds = Number(process.env.BENCH_ROUNDS ?? 9);
    process.stdout.write(`\n| page | ${commit} | now | ratio |\n|---|---|---|---|\n`);
    await timePages(bases, {
      rounds,
      session,
      onRow: ({ name, figures: [old, now] }) =>
        process.stdout.write(
          `| ${name} | ${figures(old)} | ${figures(now)} | ${(now.first / old.first).toFixed(2)}${now.whole === undefined ? "" : ` / ${(now.whole / old.whole).toFixed(2)}`} |\n`,
        ),
    });
    step("A sheet of 24 plates over a day");
    const browser = await launch();
    try {
      const of = await timeLargeSheet(browser, bases.at(-1), { session, rounds });
      process.stdout.write(
        `\nin a new browser the first plate after ${Math.round(of.coldFirst)} ms, all after ${Math.round(of.coldAll)} ms; once more ${Math.round(of.first)} and ${Math.round(of.all)} ms; pointing: ${of.perSecond.toFixed(1)} frames a second, the longest ${of.longest.toFixed(0)} ms, ${of.long} tasks over 50 ms (the longest ${of.longestTask.toFixed(0)} ms)\n`,
      );
    } finally {
      await browser.close();
    }
  } finally {
    await family.end();
    await database.stop();
    if (existsSync(before)) git("worktree", "remove", "--force", before);
    rmSync(data, { recursive: true, force: true });
    rmSync(database.home, { recursive: true, force: true });
  }
});
