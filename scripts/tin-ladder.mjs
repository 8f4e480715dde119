#!/usr/bin/env node
import { existsSync, readdirSync, statSync } from "node:fs";
import path from "node:path";
import { pathToFileURL } from "node:url";
import { ensureModules } from "./lib/modules.mjs";
import { root } from "./lib/run.mjs";

/** `npx tin-ladder …`: bundles the command once, and again after its sources changed. */

const program = path.join(root, ".build", "cli.js");

function newest(folder) {
  return Math.max(
    ...readdirSync(folder, { withFileTypes: true }).map((entry) => {
      const place = path.join(folder, entry.name);
      return entry.isDirectory() ? newest(place) : statSync(place).mtimeMs;
    }),
  );
}

const built = existsSync(program) ? statSync(program).mtimeMs : 0;
if (built < Math.max(newest(path.join(root, "src/cli")), newest(path.join(root, "src/core")))) {
  const write = process.stdout.write;
  // What is told of the set-up goes beside the output, which may be piped.
  process.stdout.write = process.stderr.write.bind(process.stderr);
  await ensureModules();
  const { bundle } = await import("./lib/build.mjs");
  await bundle(["cli"]);
  process.stdout.write = write;
}
await import(pathToFileURL(program).href);
