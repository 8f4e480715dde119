import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { root, run } from "./run.mjs";
import { step } from "./say.mjs";

/** Programs outside Next.js, each bundled into one file under .build/. */
const PROGRAMS = {
  intake: "src/intake/main.ts",
  "upkeep-worker": "src/intake/upkeepWorker.ts",
  "scrape-worker": "src/intake/scrape/scrapeWorker.ts",
  "pipeline-worker": "src/intake/pipeline/pipelineWorker.ts",
  "export-worker": "src/intake/export/exportWorker.ts",
  "engine-worker": "src/engine/worker.ts",
  "file-worker": "src/engine/fileWorker.ts",
  distribute: "src/store/strips/distribute.ts",
  history: "src/demo/history.ts",
  service: "src/demo/service.ts",
  lockers: "src/demo/lockers.ts",
  backend: "src/demo/backend.ts",
  courier: "src/demo/courier.ts",
  drive: "src/demo/drive.ts",
  cli: "src/cli/main.ts",
  sender: "tests/e2e/sender.ts",
  bench: "tests/bench/main.ts",
  soak: "tests/soak/main.ts",
  fuzz: "tests/fuzz/main.ts",
};

/** Bundles programs, or all that exist, where their sources changed. */
export async function bundle(names = Object.keys(PROGRAMS)) {
  const mark = path.join(root, ".build", "bundled-from");
  const whole = names.length === Object.keys(PROGRAMS).length;
  const wanted = hashOfSources();
  if (whole && existsSync(mark) && readFileSync(mark, "utf8") === wanted) return;
  const esbuild = await import("esbuild");
  const entries = names.filter((name) => existsSync(path.join(root, PROGRAMS[name])));
  await esbuild.build({
    absWorkingDir: root,
    entryPoints: Object.fromEntries(entries.map((name) => [name, PROGRAMS[name]])),
    outdir: ".build",
    bundle: true,
    platform: "node",
    target: "node20",
    format: "esm",
    packages: "external",
    sourcemap: true,
    logLevel: "warning",
  });
  writeFileSync(path.join(root, ".build", "package.json"), '{ "type": "module" }\n');
  if (whole) writeFileSync(mark, wanted);
}

function* filesBelow(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const place = path.join(folder, entry.name);
    if (entry.isDirectory()) yield* filesBelow(place);
    else yield place;
  }
}

function hashOfSources() {
  const hash = createHash("sha256");
  const loose = ["package-lock.json", "next.config.ts", "postcss.config.mjs", "tsconfig.json"].map((name) =>
    path.join(root, name),
  );
  const programs = [
    path.join(root, "tests/e2e/sender.ts"),
    ...["tests/bench", "tests/soak", "tests/fuzz"].flatMap((one) => [...filesBelow(path.join(root, one))]),
  ];
  for (const file of [...filesBelow(path.join(root, "src")), ...loose, ...programs]) {
    if (/\.test\.tsx?$/.test(file)) continue;
    hash.update(file).update(readFileSync(file));
  }
  return hash.digest("hex");
}

/** Builds the pages where their sources changed since the last build. */
export async function buildPages() {
  const mark = path.join(root, ".build", "pages-built-from");
  const wanted = hashOfSources();
  if (existsSync(path.join(root, ".next", "BUILD_ID")) && existsSync(mark) && readFileSync(mark, "utf8") === wanted)
    return;
  step("Building the pages (about half a minute)");
  await run(path.join(root, "node_modules/.bin/next"), ["build"], {
    quiet: true,
    env: { NEXT_TELEMETRY_DISABLED: "1", NODE_ENV: "production" },
  });
  mkdirSync(path.dirname(mark), { recursive: true });
  writeFileSync(mark, wanted);
}
