/**
 * Every program outside Next.js: bundled from `source` into one file of that name under .build/. A new process, thread or tool is one entry here.
 */
export const PROGRAMS = [
  { name: "intake", source: "src/intake/main.ts" },
  { name: "upkeep-worker", source: "src/intake/upkeepWorker.ts" },
  { name: "scrape-worker", source: "src/intake/scrape/scrapeWorker.ts" },
  { name: "pipeline-worker", source: "src/intake/pipeline/pipelineWorker.ts" },
  { name: "export-worker", source: "src/intake/export/exportWorker.ts" },
  { name: "engine-worker", source: "src/engine/worker.ts" },
  { name: "file-worker", source: "src/engine/fileWorker.ts" },
  { name: "settings", source: "src/core/settings/settings.ts" },
  { name: "web", source: "src/web/main.ts" },
  { name: "watch", source: "src/watch/main.ts" },
  { name: "access", source: "src/access/program.ts" },
  { name: "distribute", source: "src/store/strips/distribute.ts" },
  { name: "history", source: "src/demo/history.ts" },
  { name: "service", source: "src/demo/service.ts" },
  { name: "lockers", source: "src/demo/lockers.ts" },
  { name: "backend", source: "src/demo/backend.ts" },
  { name: "courier", source: "src/demo/courier.ts" },
  { name: "drive", source: "src/demo/drive.ts" },
  { name: "cli", source: "src/cli/main.ts" },
  { name: "sender", source: "tests/e2e/sender.ts" },
  { name: "bench", source: "tests/bench/main.ts" },
  { name: "scale", source: "tests/bench/scale/main.ts" },
  { name: "compare", source: "tests/bench/compare/main.ts" },
  { name: "soak", source: "tests/soak/main.ts" },
  { name: "fuzz", source: "tests/fuzz/main.ts" },
];

/** What each process may hold, MiB: one that wants more ends, and is started again. */
const HEAP = "--max-old-space-size=768";

/** Collects when a heap is half as large again as what lives in it: the intake has five, and usually each may grow fourfold. */
const SMALL = "--heap-growing-percent=50";

/** Lets threads of the engine collect what they give back. */
const COLLECTS = "--expose-gc";

/**
 * The processes of a system, in the order in which they start: a new kind is one entry here, and `--only` knows it.
 *
 * `ports` are to be free (names of ports.mjs), `pages` says whether it needs the pages built, `command` what is run,
 * `ready` where it answers once it runs; null where nobody asks it.
 */
export const PROCESSES = [
  {
    name: "intake",
    ports: ["intake", "grpc"],
    pages: false,
    command: () => [HEAP, SMALL, "--enable-source-maps", ".build/intake.js"],
    ready: ({ intakePort }) => `http://127.0.0.1:${intakePort}/health`,
    says: ({ intakePort }) => `It receives OTLP at http://localhost:${intakePort}`,
  },
  {
    name: "web",
    ports: ["web"],
    pages: true,
    command: ({ webPort, dev }) =>
      dev
        ? ["node_modules/next/dist/bin/next", "dev", "-H", "127.0.0.1", "-p", String(webPort)]
        : // The maps of all pages are 200 MB that Node would keep; faults are told by the places of their sources all the same.
          [HEAP, COLLECTS, ".build/web.js"],
    ready: ({ webPort }) => `http://127.0.0.1:${webPort}/api/health`,
    says: ({ webPort }) => `Tin Ladder is at http://localhost:${webPort}`,
  },
  {
    name: "watch",
    ports: [],
    pages: false,
    command: () => [HEAP, SMALL, COLLECTS, "--enable-source-maps", ".build/watch.js"],
    // It goes from service to service: what it decoded of one is of no use for the next.
    env: { TIN_ENGINE_CACHE_MB: "16", TIN_ENGINE_THREADS: "1" },
    ready: () => null,
    says: () => "It watches releases by itself",
  },
];

/** Processes by their names; all where none are given. */
export function processesOf(names) {
  return names ? PROCESSES.filter(({ name }) => names.includes(name)) : PROCESSES;
}
