import { spawn } from "node:child_process";
import { mkdirSync, readdirSync, readFileSync, rmSync } from "node:fs";
import path from "node:path";
import { startCluster } from "./cluster.mjs";
import { freePort } from "./freePort.mjs";
import { endTestClusters } from "./leftovers.mjs";
import { keepSession, makeOwner, testKey } from "./owner.mjs";
import { chromium } from "./packages.mjs";
import { Family, root } from "./run.mjs";
import { Stop, step } from "./say.mjs";
import { startSystem } from "./system.mjs";

/**
 * End-to-end tests, several files side by side: each lane has a database, an intake and pages of its own, and takes one
 * file after the other. The tests wait far more than they compute.
 */

const LANES = 3;
/** What is handed on or put aside for later is so sooner, and more of it, than where nobody waits for it. */
const SETTINGS = { TIN_SAMPLE_EVERY: "1", TIN_SAMPLE_RATE: "20000" };
/**
 * Files that go through one lane, in this order, by how they begin: those that look at what the ones before them sent, and
 * those that merge all that a store holds, which has to be little.
 */
const TOGETHER = ["01", "02", "03", "04", "05", "07", "08", "09", "10", "14", "17", "22", "25", "26"];
/** Files that take longest, first: so none of them is left for the end. */
const LONG = ["28", "34", "15", "24", "16", "12", "18", "13", "11", "20", "06", "23", "21", "19", "27"];

/** Lines that are told again of a run that failed, at the end of everything, where they are looked for. */
const LINES_TOLD = 120;

const LINES_LOGGED = 15;

const number = (file) => file.slice(0, 2);

/** What lanes take, in this order: files that belong together, then by length. */
function portionsOf(files) {
  const together = files.filter((file) => TOGETHER.includes(number(file)));
  const place = (file) => (LONG.includes(number(file)) ? LONG.indexOf(number(file)) : LONG.length);
  const single = files.filter((file) => !TOGETHER.includes(number(file))).sort((a, b) => place(a) - place(b));
  return [...(together.length > 0 ? [together] : []), ...single.map((file) => [file])];
}

/** Runs some files in one lane. @returns what was printed, and how many tests passed and failed */
function runFiles(files, lane, env, children) {
  return new Promise((resolve, reject) => {
    const args = ["test", ...files.map((file) => `tests/e2e/${file}`), "--output", `test-results/lane-${lane}`];
    const child = spawn(`${root}/node_modules/.bin/playwright`, args, {
      cwd: root,
      env: { ...process.env, ...env, TIN_TEST_CHROMIUM: chromium() },
      stdio: ["ignore", "pipe", "pipe"],
    });
    children.add(child);
    let out = "";
    const hear = (chunk) => {
      out += chunk;
    };
    child.stdout.on("data", hear);
    child.stderr.on("data", hear);
    child.on("error", reject);
    child.on("close", (code) => {
      children.delete(child);
      const counted = (word) => Number(new RegExp(`(\\d+) ${word}`).exec(out)?.[1] ?? 0);
      const passed = counted("passed");
      const failed = counted("failed") + counted("did not run");
      resolve({ out, passed, failed: code === 0 ? failed : Math.max(failed, 1) });
    });
  });
}

/** What a run says of the tests that failed: from its first failure, without the list of what went well. */
function failuresIn(out) {
  const lines = out.split("\n");
  const first = lines.findIndex((line) => /^ {2}1\) /.test(line));
  const told = first < 0 ? lines.slice(-LINES_TOLD) : lines.slice(first);
  return told.length <= LINES_TOLD ? told.join("\n") : [...told.slice(0, LINES_TOLD), "  …"].join("\n");
}

/** The last lines that a lane's processes logged. */
function lastOfLogs(data) {
  const logs = readdirSync(data).filter((file) => file.endsWith(".log"));
  return logs
    .map(
      (file) =>
        `${file}:\n${readFileSync(path.join(data, file), "utf8").trim().split("\n").slice(-LINES_LOGGED).join("\n")}`,
    )
    .join("\n\n");
}

async function runLane(lane, portions, children, totals, stop) {
  const data = path.join(root, ".data", `test-${process.pid}-${lane}`);
  mkdirSync(data, { recursive: true });
  const family = new Family();
  const database = await startCluster({ data, port: await freePort(), settings: ["fsync=on"] });
  try {
    const [intakePort, grpcPort, webPort] = [await freePort(), await freePort(), await freePort()];
    const at = { databaseUrl: database.url, intakePort, grpcPort, webPort, logs: data };
    // Where one of its processes ends at once, nobody waits for the others.
    const stopped = stop.then(() => {
      throw new Stop("stopped");
    });
    const env = await Promise.race([startSystem(family, at, SETTINGS), stopped]);
    const session = path.join(data, "session.json");
    keepSession(session, await makeOwner(env));
    Object.assign(env, { TIN_TEST_KEY: testKey(), TIN_TEST_SESSION: session });
    for (let files = portions.shift(); files && !totals.stopped; files = portions.shift()) {
      const { out, passed, failed } = await runFiles(files, lane, env, children);
      process.stdout.write(out);
      totals.passed += passed;
      totals.failed += failed;
      if (failed > 0) totals.told.push(failuresIn(out), lastOfLogs(data));
    }
  } finally {
    await family.end();
    await database.stop();
    rmSync(data, { recursive: true, force: true });
    rmSync(database.home, { recursive: true, force: true });
  }
}

/**
 * Runs the end-to-end tests.
 *
 * @param {string[]} wanted parts of file names; all files where there are none
 * @param {Promise<void>} stop
 */
export async function endToEnd(wanted, stop) {
  const files = readdirSync(path.join(root, "tests/e2e"))
    .filter((file) => file.endsWith(".spec.ts"))
    .filter((file) => wanted.length === 0 || wanted.some((part) => file.includes(part)))
    .sort();
  if (files.length === 0) throw new Stop(`no file of tests/e2e has ${wanted.join(" or ")} in its name`);
  await endTestClusters();
  const portions = portionsOf(files);
  const totals = { passed: 0, failed: 0, stopped: false, told: [] };
  const children = new Set();
  stop.then(() => {
    totals.stopped = true;
    for (const child of children) child.kill("SIGTERM");
  });
  step(`End-to-end tests of ${files.length} files, ${Math.min(LANES, portions.length)} side by side`);
  const lanes = Array.from({ length: Math.min(LANES, portions.length) }, (_, lane) =>
    runLane(lane, portions, children, totals, stop),
  );
  await Promise.all(lanes).finally(endTestClusters);
  for (const told of totals.told) process.stdout.write(`\nWhat failed:\n\n${told}\n`);
  process.stdout.write(`\nEnd-to-end: ${totals.passed} passed, ${totals.failed} failed\n`);
  if (totals.stopped) throw new Stop("stopped");
  if (totals.failed > 0) throw new Stop("some end-to-end tests failed");
}
