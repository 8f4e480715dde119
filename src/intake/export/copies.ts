import type { BlockList } from "node:net";
import type pg from "pg";
import type { CopyAnswer, CopyQuestion } from "@/core/api/copies";
import { originOf } from "@/core/http/origin";
import { Dictionary } from "@/core/otlp/dictionary";
import { decodeMetricsJson } from "@/core/otlp/json";
import { JsonError } from "@/core/otlp/jsonError";
import { REACH } from "@/core/reading/evaluate";
import { parseReading } from "@/core/reading/language/parse";
import { measuresOf, ReadingError } from "@/core/reading/language/tree";
import { heldSeries, readHeld } from "@/core/reading/offline";
import { ScrapeError } from "@/core/scrape/failure";
import { OtherOriginError, openExporterSecrets } from "@/store/exports/exporterSecrets";
import { livePipeline } from "@/store/pipeline/pipeline";
import { send } from "../outgoing";

/** Readings of what another backend has, which it gives out as OTLP/JSON lines. */

const MAX_BYTES = 64 * 1024 * 1024;
const TIMEOUT = 15_000;

class CopyError extends Error {}

const tooLarge = () => new CopyError(`more than ${MAX_BYTES / 1024 / 1024} MiB came; take a shorter window`);

async function fetchLines(url: URL, headers: Readonly<Record<string, string>>, allowed: BlockList): Promise<string[]> {
  const signal = AbortSignal.timeout(TIMEOUT);
  const { status, body } = await send({ url, headers, body: null, signal, most: MAX_BYTES, tooLarge }, allowed);
  if (status !== 200) throw new CopyError(`the other backend answered ${status}`);
  return body
    .toString("utf8")
    .split("\n")
    .filter((line) => line.trim() !== "");
}

/** Answers a reading from the copy behind an exporter. */
export async function readCopy(pool: pg.Pool, question: CopyQuestion, allowed: BlockList): Promise<CopyAnswer> {
  const { config } = await livePipeline(pool);
  const exporter = config.exporters.find(({ id }) => id === question.exporter);
  if (exporter?.type !== "otlp" || exporter.copy === "")
    return {
      ok: false,
      problem: { title: "Nothing to compare with", detail: "this exporter does not say where its copy can be read" },
    };
  try {
    const tree = parseReading(question.text);
    const metrics = new Set(measuresOf(tree.expression).map(({ metric }) => metric));
    const earliest = question.from - REACH;
    // What was given for the address that it sends to goes nowhere else: a copy at another is asked without.
    const same = originOf(exporter.copy) === originOf(exporter.url);
    const secrets = same ? await openExporterSecrets(pool, exporter.id, exporter.copy) : {};
    const headers = { ...exporter.headers, ...secrets };
    const dictionary = new Dictionary();
    const batches = [];
    for (const metric of metrics) {
      const url = new URL(exporter.copy);
      url.searchParams.set("metric", metric);
      url.searchParams.set("from", String(Math.floor(earliest)));
      url.searchParams.set("to", String(Math.ceil(question.to + REACH)));
      for (const line of await fetchLines(url, headers, allowed)) batches.push(decodeMetricsJson(line, dictionary));
    }
    const asked = { ...question, picks: {} };
    return { ok: true, value: readHeld(tree, heldSeries(batches), asked, earliest) };
  } catch (error) {
    const title = "The other backend's copy cannot be read";
    if (
      error instanceof ReadingError ||
      error instanceof JsonError ||
      error instanceof ScrapeError ||
      error instanceof CopyError ||
      error instanceof OtherOriginError
    )
      return { ok: false, problem: { title, detail: error.message } };
    const { code, name, message } = error as NodeJS.ErrnoException;
    if (code || name === "TimeoutError")
      return { ok: false, problem: { title, detail: `it does not answer (${code ?? message})` } };
    throw error;
  }
}
