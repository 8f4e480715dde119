import http from "node:http";
import type { BlockList } from "node:net";
import { promisify } from "node:util";
import zlib from "node:zlib";
import { logsRequest } from "@/core/log/write";
import type { Outgoing } from "@/core/otlp/batch/batch";
import { decodeMessage } from "@/core/otlp/decode";
import { encodeMessage } from "@/core/otlp/encode";
import { outgoing } from "@/core/otlp/outgoing";
import { metricsRequest } from "@/core/otlp/writeJson";
import type { QueuedExporter } from "@/core/pipeline/exporters";
import { ScrapeError } from "@/core/scrape/failure";
import { spansRequest } from "@/core/span/write";
import { HOUR } from "@/core/window/lengths";
import { send } from "../outgoing";

/** One request of OTLP/HTTP to another backend (OTLP specification, "OTLP/HTTP Request", "Failures", "Retryable Response Codes"). */

export type OtlpExporter = Extract<QueuedExporter, { type: "otlp" }>;

/** What became of a request. */
export type Outcome =
  | { type: "taken"; refused: number; message: string }
  /** Worth another attempt; `after` ms, where the other side said so. */
  | { type: "later"; reason: string; after: number | null }
  | { type: "refused"; reason: string };

const gzip = promisify<Buffer, Buffer>(zlib.gzip);
const RETRYABLE = new Set([429, 502, 503, 504]);
const MAX_ANSWER = 64 * 1024;
const MESSAGES = {
  metrics: "ExportMetricsServiceRequest",
  traces: "ExportTraceServiceRequest",
  logs: "ExportLogsServiceRequest",
} as const;

/** What is sent, in the form of OTLP/JSON. */
export function requestOf(content: Outgoing): object {
  if (content.signal === "traces") return spansRequest(content.spans);
  if (content.signal === "logs") return logsRequest(content.records);
  const { metrics, naming } = outgoing(content.batch);
  return metricsRequest(metrics, naming);
}

/** What Retry-After says, ms: seconds or a date (RFC 9110, section 10.2.3). */
export function retryAfter(text: string | undefined, now: number): number | null {
  if (!text) return null;
  const ms = /^\d+$/.test(text.trim()) ? Number(text) * 1000 : Date.parse(text) - now;
  return Number.isFinite(ms) && ms >= 0 ? Math.min(ms, HOUR) : null;
}

/** What the other side did not take although it said yes. */
function partial(body: Buffer, encoding: OtlpExporter["encoding"]): { refused: number; message: string } {
  const none = { refused: 0, message: "" };
  if (body.length === 0) return none;
  try {
    const answer = (
      encoding === "json" ? JSON.parse(body.toString("utf8")) : decodeMessage("ExportServiceResponse", body)
    ) as { partialSuccess?: Record<string, string | number> };
    const { errorMessage = "", ...rest } = answer.partialSuccess ?? {};
    return { refused: Number(Object.values(rest)[0] ?? 0) || 0, message: String(errorMessage) };
  } catch {
    // It said yes; how it says more is its own affair.
    return none;
  }
}

/** Sends content once. @param secrets values of headers, by name */
export async function sendOtlp(
  exporter: OtlpExporter,
  secrets: Readonly<Record<string, string>>,
  content: Outgoing,
  allowed: BlockList,
): Promise<Outcome> {
  const plain = requestOf(content);
  const json = exporter.encoding === "json";
  const bytes = json ? Buffer.from(JSON.stringify(plain)) : Buffer.from(encodeMessage(MESSAGES[content.signal], plain));
  const headers: Record<string, string> = {
    ...exporter.headers,
    ...secrets,
    "Content-Type": json ? "application/json" : "application/x-protobuf",
    ...(exporter.gzip ? { "Content-Encoding": "gzip" } : {}),
  };
  const url = new URL(`${exporter.url.replace(/\/+$/, "")}/v1/${content.signal}`);
  try {
    const body = exporter.gzip ? await gzip(bytes) : bytes;
    const signal = AbortSignal.timeout(exporter.timeout * 1000);
    const answer = await send({ url, headers, body, signal, most: MAX_ANSWER, tooLarge: null }, allowed);
    const { status } = answer;
    if (status >= 200 && status < 300) return { type: "taken", ...partial(answer.body, exporter.encoding) };
    // What else it says may be meant for others than those who can give its address.
    const reason = `${status} ${http.STATUS_CODES[status] ?? ""}`.trim();
    if (RETRYABLE.has(status))
      return { type: "later", reason, after: retryAfter(answer.headers["retry-after"], Date.now()) };
    return { type: "refused", reason };
  } catch (error) {
    const { name, message } = error as Error;
    if (error instanceof ScrapeError) return { type: "later", reason: message, after: null };
    const slow = name === "TimeoutError" || name === "AbortError";
    return { type: "later", reason: slow ? `no answer within ${exporter.timeout} s` : message, after: null };
  }
}
