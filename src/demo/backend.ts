import { appendFileSync, createReadStream, existsSync, renameSync, statSync } from "node:fs";
import http from "node:http";
import readline from "node:readline";
import { promisify } from "node:util";
import zlib from "node:zlib";
import { decodeMessage } from "@/core/otlp/decode";
import { encodeMessage } from "@/core/otlp/encode";

/**
 * The stand-in for a second backend: takes OTLP/HTTP, counts, and gives back what it has. It can be told to be slow, to
 * fail, or to be away. Called as: backend.js PORT [FILE]; with a file, what it took is there again after a restart.
 *
 * - POST /v1/metrics, /v1/traces, /v1/logs
 * - GET /counts · GET /copy?metric=&from=&to= (OTLP/JSON lines) · POST /mode {"mode": "fine" | "slow" | "fail" | "away"}
 */

const [port, file] = process.argv.slice(2);
const MESSAGES = {
  "/v1/metrics": "ExportMetricsServiceRequest",
  "/v1/traces": "ExportTraceServiceRequest",
  "/v1/logs": "ExportLogsServiceRequest",
} as const;
type Path = keyof typeof MESSAGES;
const MODES = ["fine", "slow", "fail", "away"] as const;
type Mode = (typeof MODES)[number];
/** How slow is slow, ms. */
const SLOW = 4000;
/** Packed bytes that are kept; past it, the oldest goes. */
const MAX_KEPT = 48 * 1024 * 1024;
/** Bytes of one file; when it is full, it takes the place of the one before. */
const MAX_FILE = 32 * 1024 * 1024;

// biome-ignore lint/suspicious/noExplicitAny: other people's messages are walked as they come
type Any = any;

interface Taken {
  path: Path;
  body: Any;
}

/** A request of metrics, packed, with what it is found by. Times in Unix ms. */
interface Kept {
  metrics: ReadonlySet<string>;
  from: number;
  to: number;
  packed: Buffer;
}

const gunzip = promisify<Buffer, Buffer>(zlib.gunzip);
let mode: Mode = "fine";
const kept: Kept[] = [];
let keptBytes = 0;
const counts = { requests: 0, refused: 0, points: 0, spans: 0, records: 0 };

function msOf({ timeUnixNano = "0" }: Any): number {
  return Number(BigInt(timeUnixNano) / 1_000_000n);
}

function note(one: Taken): void {
  counts.requests++;
  const names = new Set<string>();
  let [from, to] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const { scopeMetrics = [] } of one.body.resourceMetrics ?? [])
    for (const { metrics = [] } of scopeMetrics)
      for (const metric of metrics) {
        names.add(metric.name);
        for (const point of pointsOf(metric)) {
          counts.points++;
          from = Math.min(from, msOf(point));
          to = Math.max(to, msOf(point));
        }
      }
  if (names.size > 0) {
    const packed = zlib.deflateSync(JSON.stringify(one.body), { level: 1 });
    kept.push({ metrics: names, from, to, packed });
    keptBytes += packed.length;
    while (keptBytes > MAX_KEPT) keptBytes -= kept.shift()!.packed.length;
  }
  for (const { scopeSpans = [] } of one.body.resourceSpans ?? [])
    for (const { spans = [] } of scopeSpans) counts.spans += spans.length;
  for (const { scopeLogs = [] } of one.body.resourceLogs ?? [])
    for (const { logRecords = [] } of scopeLogs) counts.records += logRecords.length;
}

function dataOf(metric: Any): Any {
  return metric.gauge ?? metric.sum ?? metric.histogram ?? metric.exponentialHistogram ?? metric.summary ?? {};
}

function pointsOf(metric: Any): Any[] {
  return dataOf(metric).dataPoints ?? [];
}

/** A request with nothing but one metric's points in a span of time (Unix ms); null where there are none. */
function only(body: Any, name: string, from: number, to: number): object | null {
  const resourceMetrics = (body.resourceMetrics ?? []).flatMap(({ resource, scopeMetrics = [] }: Any) => {
    const scopes = scopeMetrics.flatMap(({ scope, metrics = [] }: Any) => {
      const some = metrics.flatMap((metric: Any) => {
        if (metric.name !== name) return [];
        const inside = pointsOf(metric).filter((point: Any) => msOf(point) >= from && msOf(point) <= to);
        if (inside.length === 0) return [];
        const [kind] = Object.entries(metric).find(([, value]) => value === dataOf(metric)) ?? [""];
        return [{ ...metric, [kind]: { ...dataOf(metric), dataPoints: inside } }];
      });
      return some.length > 0 ? [{ scope, metrics: some }] : [];
    });
    return scopes.length > 0 ? [{ resource, scopeMetrics: scopes }] : [];
  });
  return resourceMetrics.length > 0 ? { resourceMetrics } : null;
}

async function bodyOf(request: http.IncomingMessage): Promise<Buffer> {
  const chunks: Buffer[] = [];
  for await (const chunk of request) chunks.push(chunk as Buffer);
  const body = Buffer.concat(chunks);
  return request.headers["content-encoding"] === "gzip" ? gunzip(body) : body;
}

function keep(one: Taken): void {
  if (file) {
    if (existsSync(file) && statSync(file).size > MAX_FILE) renameSync(file, `${file}.before`);
    appendFileSync(file, `${JSON.stringify(one)}\n`);
  }
  note(one);
}

async function take(path: Path, request: http.IncomingMessage, response: http.ServerResponse): Promise<void> {
  const body = await bodyOf(request);
  if (mode === "slow") await new Promise((resolve) => setTimeout(resolve, SLOW));
  if (mode === "fail") {
    counts.refused++;
    response.writeHead(503, { "Content-Type": "text/plain" }).end("told to fail");
    return;
  }
  const json = (request.headers["content-type"] ?? "").startsWith("application/json");
  keep({ path, body: json ? JSON.parse(body.toString("utf8")) : decodeMessage(MESSAGES[path], body) });
  response.writeHead(200, { "Content-Type": json ? "application/json" : "application/x-protobuf" });
  response.end(json ? "{}" : Buffer.from(encodeMessage("ExportServiceResponse", {})));
}

async function handle(request: http.IncomingMessage, response: http.ServerResponse): Promise<void> {
  const url = new URL(request.url ?? "/", "http://localhost");
  if (request.method === "POST" && url.pathname in MESSAGES) {
    if (mode === "away") {
      request.socket.destroy();
      return;
    }
    return take(url.pathname as Path, request, response);
  }
  if (url.pathname === "/mode" && request.method === "POST") {
    const wanted = (JSON.parse((await bodyOf(request)).toString("utf8")) as { mode: Mode }).mode;
    if (!MODES.includes(wanted)) {
      response.writeHead(400).end(`a mode is one of ${MODES.join(", ")}`);
      return;
    }
    mode = wanted;
    response.end(JSON.stringify({ mode }));
    return;
  }
  if (url.pathname === "/counts") {
    response.writeHead(200, { "Content-Type": "application/json" }).end(JSON.stringify({ mode, ...counts }));
    return;
  }
  if (url.pathname === "/copy") {
    const number = (name: string, usual: number) => Number(url.searchParams.get(name) ?? usual);
    const [from, to] = [number("from", 0), number("to", Number.MAX_SAFE_INTEGER)];
    const metric = url.searchParams.get("metric") ?? "";
    response.writeHead(200, { "Content-Type": "application/jsonl" });
    for (const one of kept) {
      if (!one.metrics.has(metric) || one.to < from || one.from > to) continue;
      const some = only(JSON.parse(zlib.inflateSync(one.packed).toString("utf8")), metric, from, to);
      if (some) response.write(`${JSON.stringify(some)}\n`);
    }
    response.end();
    return;
  }
  response.writeHead(404).end();
}

for (const one of file ? [`${file}.before`, file] : []) {
  if (!existsSync(one)) continue;
  for await (const line of readline.createInterface({
    input: createReadStream(one),
    crlfDelay: Number.POSITIVE_INFINITY,
  })) {
    // The last line may have been cut by a kill; it was not acknowledged then.
    try {
      if (line !== "") note(JSON.parse(line) as Taken);
    } catch {}
  }
}
if (file && existsSync(file)) appendFileSync(file, "\n");

http
  .createServer((request, response) => {
    handle(request, response).catch((error: Error) => {
      if (!response.headersSent) response.writeHead(400).end(error.message);
    });
  })
  .listen(Number(port), "127.0.0.1", () => process.send?.({ ready: true }));
process.on("SIGTERM", () => process.exit(0));
process.on("disconnect", () => process.exit(0));
