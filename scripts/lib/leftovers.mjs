import { existsSync, mkdirSync, readdirSync, readFileSync, readlinkSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { homeOf, stopServer } from "./cluster.mjs";
import { root } from "./run.mjs";
import { step } from "./say.mjs";

/** A start that was killed outright leaves its children running; the next start ends them, and only them. */

const LIST = path.join(root, ".data", "running.json");

function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}

/** Whether a process was started by this checkout: it works in our folder. */
function isOurs(pid) {
  try {
    return readlinkSync(`/proc/${pid}/cwd`) === root;
  } catch {
    return false;
  }
}

/** Remembers the processes of this start. */
export function remember(children, list = LIST) {
  mkdirSync(path.dirname(list), { recursive: true });
  writeFileSync(list, JSON.stringify({ parent: process.pid, children: children.map(({ child }) => child.pid) }));
}

export function forget(list = LIST) {
  rmSync(list, { force: true });
}

/** Ends what an earlier start left behind, if that start itself is gone. */
export async function endLeftovers(list = LIST) {
  if (!existsSync(list)) return;
  const { parent, children } = JSON.parse(readFileSync(list, "utf8"));
  if (isAlive(parent) && isOurs(parent)) return;
  const left = children.filter((pid) => isAlive(pid) && isOurs(pid));
  if (left.length > 0) step("Ending what an interrupted start left behind");
  for (const pid of left) process.kill(pid, "SIGTERM");
  for (let tries = 0; tries < 100 && left.some(isAlive); tries++)
    await new Promise((resolve) => setTimeout(resolve, 100));
  forget(list);
}

/** Ends the databases of tests and benchmarks that were ended before they could, and removes their data. */
export async function endTestClusters() {
  const data = path.join(root, ".data");
  for (const name of existsSync(data) ? readdirSync(data) : []) {
    const [, pid] = /^(?:test|bench|fuzz)-(?:[a-z]+-)?(\d+)(?:-|$)/.exec(name) ?? [];
    if (pid === undefined || isAlive(Number(pid))) continue;
    const home = await homeOf(path.join(data, name));
    await stopServer(home, "immediate");
    rmSync(home, { recursive: true, force: true });
    rmSync(path.join(data, name), { recursive: true, force: true });
  }
}
