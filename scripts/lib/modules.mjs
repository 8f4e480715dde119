import { createHash } from "node:crypto";
import { copyFileSync, existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { root, run } from "./run.mjs";
import { step } from "./say.mjs";

/** npm's packages, as the lock has them. */

const INSTALL = ["install", "--no-audit", "--no-fund"];
const NODE_MODULES = path.join(root, "node_modules");

function hashOf(...files) {
  const hash = createHash("sha256");
  for (const file of files) hash.update(readFileSync(path.join(root, file)));
  return hash.digest("hex");
}

/** What the note of installed packages ends with where those for tests are left out. */
const TO_RUN = " to run";

/**
 * Installs the npm packages of the lock where they are not there yet.
 *
 * @param tests whether tests and checks are to run as well: a quarter of the packages is for them only
 */
export async function ensureModules({ tests = true } = {}) {
  const mark = path.join(NODE_MODULES, ".tin-ladder-lock");
  const wanted = hashOf("package.json", "package-lock.json");
  const there = existsSync(mark) ? readFileSync(mark, "utf8") : "";
  if (there === wanted || (!tests && there === wanted + TO_RUN)) return;
  // What somebody has installed to develop stays.
  const all = tests || (existsSync(NODE_MODULES) && !there.endsWith(TO_RUN));
  step("Installing npm packages");
  // Whatever NODE_ENV says.
  const which = all ? "--include=dev" : "--omit=dev";
  if (existsSync(NODE_MODULES) || !(await installAside(which))) await run("npm", [...INSTALL, which], { quiet: true });
  mkdirSync(NODE_MODULES, { recursive: true });
  writeFileSync(mark, hashOf("package.json", "package-lock.json") + (all ? "" : TO_RUN));
}

/**
 * Where each package of a lock is, as registries lay packages out. Our lock names no registry; npm then asks what there is
 * of every package, which is more than half of its work.
 *
 * @param {{ packages: Record<string, { name?: string, version?: string, integrity?: string }> }} lock
 * @param {string} registry its address
 */
function withPlaces(lock, registry) {
  const packages = Object.entries(lock.packages).map(([place, entry]) => {
    const name = entry.name ?? place.slice(place.lastIndexOf("node_modules/") + "node_modules/".length);
    if (place === "" || !entry.integrity || !entry.version) return [place, entry];
    const file = `${name.slice(name.indexOf("/") + 1)}-${entry.version}.tgz`;
    return [place, { ...entry, resolved: new URL(`${name}/-/${file}`, registry.replace(/\/*$/, "/")).href }];
  });
  return { ...lock, packages: Object.fromEntries(packages) };
}

/**
 * Installs into a folder beside, by a lock that says where packages are, and puts them in their place once all are there.
 *
 * @returns whether it could: a registry may lay its packages out otherwise
 */
async function installAside(which) {
  const aside = path.join(root, ".data", "packages-to-be");
  try {
    rmSync(aside, { recursive: true, force: true });
    mkdirSync(aside, { recursive: true });
    for (const file of ["package.json", ".npmrc"]) copyFileSync(path.join(root, file), path.join(aside, file));
    const registry = (await run("npm", ["config", "get", "registry"], { quiet: true })).trim();
    const lock = JSON.parse(readFileSync(path.join(root, "package-lock.json"), "utf8"));
    writeFileSync(path.join(aside, "package-lock.json"), JSON.stringify(withPlaces(lock, registry)));
    await run("npm", [...INSTALL, which], { quiet: true, cwd: aside });
    renameSync(path.join(aside, "node_modules"), NODE_MODULES);
    return true;
  } catch {
    return false;
  } finally {
    rmSync(aside, { recursive: true, force: true });
  }
}
