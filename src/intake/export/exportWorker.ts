import { parentPort } from "node:worker_threads";
import pino from "pino";
import type { CopyAnswer, CopyQuestion } from "@/core/api/copies";
import { isQueued, type QueuedExporter } from "@/core/pipeline/exporters";
import { setting } from "@/core/settings/environment";
import { connect } from "@/store/database/connect";
import { LOCKS } from "@/store/database/locks";
import { PIPELINE_CHANGED, pipelinesFrom } from "@/store/pipeline/pipeline";
import { networks } from "../address";
import { leaseForever } from "../lease";
import { readCopy } from "./copies";
import { type ExportReport, Runner } from "./runner";

/**
 * The intake's fifth thread: empties the queues of exporters. One process at a time does so, each exporter by itself, so
 * that one that is away holds up no other. An exporter that was taken out of the pipeline still gets what was meant for
 * it, as it was set up last.
 */

/** What the thread says: how exporters do, and answers to questions. */
export type FromExporting = { report: ExportReport } | { number: number; answer: CopyAnswer | null };
export interface ToExporting {
  number: number;
  question: CopyQuestion;
}

/** Versions that are looked through for exporters that are gone. */
const BACK = 50;

const log = pino({ name: "exporting", level: setting("LOG_LEVEL") });
const pool = connect({ max: 10 });
const allowed = networks();
const report = (error: unknown) => log.error(error, "exporting failed");
const told = (what: ExportReport) => parentPort?.postMessage({ report: what } satisfies FromExporting);
const running = new Map<string, Runner>();
const ending = new Set<string>();

/** The exporters of the live version, and those of earlier ones that something is still queued for. */
async function wanted(): Promise<Map<string, QueuedExporter>> {
  const { rows } = await pool.query<{ newest: number | null }>("SELECT max(id) AS newest FROM pipeline_version");
  const newest = rows[0].newest ?? 0;
  const versions = await pipelinesFrom(pool, newest - BACK);
  const { rows: queued } = await pool.query<{ exporter: string }>("SELECT DISTINCT exporter FROM export_queue");
  const waiting = new Set(queued.map(({ exporter }) => exporter));
  const found = new Map<string, QueuedExporter>();
  for (const { id, config } of versions.reverse())
    for (const exporter of config.exporters.filter(isQueued)) {
      const live = id === newest && exporter.on;
      if (!found.has(exporter.id) && (live || waiting.has(exporter.id))) found.set(exporter.id, exporter);
    }
  return found;
}

/** Lets a runner end what it is at; another takes its place afterwards. */
function stop(id: string, runner: Runner): void {
  runner.stop();
  running.delete(id);
  ending.add(id);
  void runner.ended.finally(() => ending.delete(id));
}

/** Whether something is queued for an exporter that does not run. */
async function isForgotten(): Promise<boolean> {
  const { rows } = await pool.query<{ exporter: string }>("SELECT DISTINCT exporter FROM export_queue");
  return rows.some(({ exporter }) => !running.has(exporter));
}

/** @param woken whether something was published, or may have been */
async function apply(woken: boolean): Promise<void> {
  if (!woken && ending.size === 0 && !(await isForgotten())) return;
  const all = await wanted();
  for (const [id, runner] of running) {
    const now = all.get(id);
    if (now && JSON.stringify(now) === JSON.stringify(runner.config)) continue;
    stop(id, runner);
  }
  for (const [id, config] of all)
    if (!running.has(id) && !ending.has(id)) running.set(id, new Runner({ pool, allowed, report, told }, config));
}

parentPort?.on("message", ({ number, question }: ToExporting) => {
  readCopy(pool, question, allowed).then(
    (answer) => parentPort?.postMessage({ number, answer } satisfies FromExporting),
    (error) => {
      report(error);
      parentPort?.postMessage({ number, answer: null } satisfies FromExporting);
    },
  );
});

void leaseForever({
  pool,
  lock: LOCKS.exporting,
  channel: PIPELINE_CHANGED,
  report,
  turn: apply,
  released: () => {
    for (const [id, runner] of [...running]) stop(id, runner);
  },
});
