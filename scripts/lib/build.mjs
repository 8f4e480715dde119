import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { gzipSync } from "node:zlib";
import { PROGRAMS } from "./programs.mjs";
import { root, run } from "./run.mjs";
import { step } from "./say.mjs";

/** Smaller files go as they are, bytes. */
const WORTH_PACKING = 1024;

/** Bundles programs, or all that exist, where their sources changed. */
export async function bundle(names = PROGRAMS.map(({ name }) => name)) {
  const mark = path.join(root, ".build", "bundled-from");
  const whole = names.length === PROGRAMS.length;
  const wanted = hashOfSources();
  if (whole && existsSync(mark) && readFileSync(mark, "utf8") === wanted) return;
  const esbuild = await import("esbuild");
  await esbuild.build({
    absWorkingDir: root,
    entryPoints: Object.fromEntries(
      PROGRAMS.filter(({ name }) => names.includes(name)).map(({ name, source }) => [name, source]),
    ),
    outdir: ".build",
    bundle: true,
    platform: "node",
    target: "node20",
    format: "esm",
    packages: "external",
    sourcemap: true,
    // Places are enough: the texts would stand in the memory of every thread.
    sourcesContent: false,
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
  const builtBefore = existsSync(mark);
  await run(path.join(root, "node_modules/.bin/next"), ["build"], {
    quiet: true,
    env: { NEXT_TELEMETRY_DISABLED: "1", NODE_ENV: "production", TIN_BUILT_BEFORE: builtBefore ? "yes" : "no" },
  });
  packFiles(path.join(root, ".next", "static"));
  mkdirSync(path.dirname(mark), { recursive: true });
  writeFileSync(mark, wanted);
}

/** Packs files of the build that are texts, once for all browsers. */
function packFiles(folder) {
  for (const file of [...filesBelow(folder)]) {
    if (!/\.(js|css|json|svg|txt)$/.test(file)) continue;
    const content = readFileSync(file);
    if (content.length >= WORTH_PACKING) writeFileSync(`${file}.gz`, gzipSync(content, { level: 9 }));
  }
}
