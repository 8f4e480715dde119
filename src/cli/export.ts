import { once } from "node:events";
import { createWriteStream } from "node:fs";
import type { Writable } from "node:stream";
import { Command, InvalidArgumentError, Option } from "commander";
import { nearest } from "@/core/reading/language/nearest";
import { DURATIONS } from "@/core/window/lengths";
import { NOT_OURS, reasonOf } from "./intake";
import { asBearer, type KeyOptions, keyOf, keyOption } from "./key";
import { say, UserError } from "./userError";

interface ExportOptions extends KeyOptions {
  at: string;
  metric: string[];
  format: "otlp" | "openmetrics";
  from: number;
  to: number;
  where: string[];
  output?: string;
}

/** A moment, or how long ago. */
function moment(text: string): number {
  const [, amount, unit] = /^(\d+(?:\.\d+)?)([a-z]+)$/.exec(text) ?? [];
  if (amount && Object.hasOwn(DURATIONS, unit)) return Date.now() - Number(amount) * DURATIONS[unit];
  const ms = /^\d+$/.test(text) ? Number(text) : Date.parse(text);
  if (Number.isFinite(ms)) return ms;
  throw new InvalidArgumentError("a time is RFC 3339, Unix milliseconds, or how long ago, such as 1h.");
}

function several(text: string, before: string[]): string[] {
  return [...before, text];
}

export function exportCommand(): Command {
  return new Command("export")
    .description("Writes stored points as they arrived: OTLP JSON lines, or OpenMetrics text.")
    .requiredOption("--metric <name>", "the metric; as often as needed", several, [])
    .option("--from <time>", "since when: a time, or how long ago", moment, Date.now() - 3_600_000)
    .option("--until <time>", "until when", moment, Date.now())
    .option("--where <name=value>", "only series with this attribute; as often as needed", several, [])
    .addOption(new Option("--format <format>").choices(["otlp", "openmetrics"]).default("otlp"))
    .option("-o, --output <file>", "where to; standard output where it is left out")
    .addOption(new Option("--at <address>", "Tin Ladder's pages").env("TIN_ADDRESS").default("http://127.0.0.1:4300"))
    .addOption(keyOption("read"))
    .action(({ until, ...options }: ExportOptions & { until: number }) => run({ ...options, to: until }));
}

/** OpenMetrics text without a metric. */
const EMPTY = "# EOF\n";

/** Why nothing was written: a metric that nobody sent, with the one that may be meant, or a span without points. */
async function whyNothing(at: string, metrics: readonly string[], key: string): Promise<string> {
  const nothing = `no points of ${metrics.join(", ")} in this span (--from, --until, --where)`;
  const response = await fetch(`${at.replace(/\/+$/, "")}/api/catalogue`, {
    headers: { "Cache-Control": "no-cache", ...asBearer(key) },
  }).catch(() => null);
  if (!response?.ok) return nothing;
  const known = ((await response.json()) as { metrics: { name: string }[] }).metrics.map(({ name }) => name);
  const unknown = metrics.filter((name) => !known.includes(name));
  if (unknown.length === 0) return nothing;
  const told = unknown.map((name) => {
    const other = nearest(name, known);
    return other === null ? name : `${name} (is ${other} meant?)`;
  });
  return `no metric named ${told.join(", ")} has arrived`;
}

async function run({ at, keyFile, metric, format, from, to, where, output }: ExportOptions): Promise<void> {
  if (!(to > from)) throw new UserError("the span must end after it begins (--from, --until)");
  const query = new URLSearchParams({ format, from: String(from), to: String(to) });
  for (const name of metric) query.append("metric", name);
  for (const test of where) query.append("where", test);
  const key = keyOf({ keyFile });
  const headers = asBearer(key);
  const response = await fetch(`${at.replace(/\/+$/, "")}/api/export?${query}`, { headers }).catch((error: Error) => {
    throw new UserError(`${at} cannot be reached (${reasonOf(error)}); is Tin Ladder running there?`);
  });
  if (!response.ok || !response.body) {
    const { detail = `${at} answers ${response.status}` } = (await response.json().catch(() => ({}))) as {
      detail?: string;
    };
    throw new UserError(response.status === 401 ? `${detail} (TIN_KEY, or --key-file)` : detail);
  }
  if (!/ndjson|openmetrics/.test(response.headers.get("content-type") ?? ""))
    throw new UserError(`${at} answers ${NOT_OURS} (--at)`);
  const into: Writable = output === undefined ? process.stdout : createWriteStream(output);
  // Whoever reads the output may have seen enough.
  if (output === undefined) into.on("error", () => process.exit(0));
  let bytes = 0;
  let told = Date.now();
  try {
    for await (const block of response.body) {
      bytes += block.length;
      if (!into.write(block)) await once(into, "drain");
      if (output !== undefined && process.stderr.isTTY && Date.now() - told > 500) {
        told = Date.now();
        process.stderr.write(`\r${(bytes / 1e6).toFixed(1)} MB written`);
      }
    }
  } catch (error) {
    throw new UserError(`the export broke off after ${bytes} bytes: ${(error as Error).message}`);
  }
  if (bytes === 0 || (format === "openmetrics" && bytes <= EMPTY.length)) say(await whyNothing(at, metric, key));
  if (output === undefined) return;
  into.end();
  await once(into, "finish");
  say(`${process.stderr.isTTY ? "\r" : ""}${(bytes / 1e6).toFixed(1)} MB written to ${output}`);
}
