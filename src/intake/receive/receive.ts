import { createHash, randomBytes } from "node:crypto";
import type { LogRecord } from "@/core/log/model";
import { readLogs } from "@/core/log/read";
import type { Absences } from "@/core/otlp/absences";
import type { RecordAdmission } from "@/core/otlp/admit";
import type { Admission } from "@/core/otlp/batch/admission";
import type { Batch } from "@/core/otlp/batch/batch";
import { messageFromJson } from "@/core/otlp/checkJson";
import { decodeMessage } from "@/core/otlp/decode";
import type { Dictionary } from "@/core/otlp/dictionary";
import { decodeMetricsJson } from "@/core/otlp/json";
import { JsonError } from "@/core/otlp/jsonError";
import { decodeMetrics } from "@/core/otlp/protobuf";
import type { Signal } from "@/core/otlp/signals";
import { WireError } from "@/core/otlp/wire";
import type { Span } from "@/core/span/model";
import { readSpans } from "@/core/span/read";
import { RequestError } from "./body";
import { type Budget, FullError } from "./budget";
import type { CommitQueue } from "./queue";

/** What all receivers share: rules, limits, and what a failure is called. */

/** What arrivals go through on their way. */
export interface Lanes {
  receives: (receiver: "otlp", signal: Signal) => boolean;
  admit: (batch: Batch) => void;
  admitSpans: (spans: readonly Span[]) => Batch;
  admitLogs: (records: readonly LogRecord[]) => Batch;
}

/** What a receiver needs of its surroundings. */
export interface ReceiverParts {
  dictionary: Dictionary;
  absences: Absences;
  queue: CommitQueue;
  lane: Lanes;
  /** Bytes of requests that are in work. */
  budget: Budget;
  /** What a request may say whose key is for an environment (null: any). */
  admission: (environment: string | null) => Admission;
  recordAdmission: (environment: string | null) => RecordAdmission;
  /** Whether everybody shows a key: then it does not matter by which name we are called. */
  keysOnly?: boolean;
  /** The environment that a request's key is for. @throws RequestError 401 */
  environmentOf: (authorization: string | undefined) => Promise<string | null>;
  /** Told of failures that are not the sender's. */
  report: (error: unknown, fault?: string) => void;
  /** Told of every request that was answered. */
  answered?: (signal: Signal, status: number, accepted: number, rejected: number) => void;
  /** Told of every request that was refused for what it is. */
  rejected?: (address: string, agent: string, request: string, status: number, reason: string) => void;
}

/** Requests in work at one time. */
export const MAX_OPEN_REQUESTS = 256;

export type Encoding = "protobuf" | "json";

/** What became of a request. */
export interface Received {
  rejected: number;
  /** What the sender should know; "" for nothing. */
  message: string;
}

/** Makes what a request holds durable. @throws what {@link failureOf} names */
export async function receive(
  parts: ReceiverParts,
  signal: Signal,
  body: Buffer,
  encoding: Encoding,
  environment: string | null,
): Promise<Received> {
  if (!parts.lane.receives("otlp", signal))
    throw new RequestError(404, `the pipeline takes no ${signal}; switch them on among its receivers`, 12);
  if (signal === "metrics") return receiveMetrics(parts, body, encoding, environment);
  return receiveRecords(parts, signal, body, encoding, environment);
}

async function receiveMetrics(
  { dictionary, absences, queue, lane, admission, answered }: ReceiverParts,
  body: Buffer,
  encoding: Encoding,
  environment: string | null,
): Promise<Received> {
  const admitted = admission(environment);
  dictionary.trim();
  const batch =
    encoding === "protobuf"
      ? decodeMetrics(body, dictionary, admitted)
      : decodeMetricsJson(body.toString("utf8"), dictionary, admitted);
  const { points } = batch;
  const durable = absences.fill(batch);
  lane.admit(batch);
  await queue.submit(batch);
  durable();
  answered?.("metrics", 200, points, batch.rejected);
  return { rejected: batch.rejected, message: batch.message() };
}

/** The same for a request that is sent again, and for no other. */
function requestId(signal: Signal, environment: string | null, body: Buffer): string {
  return createHash("sha256")
    .update(JSON.stringify([signal, environment]))
    .update(body)
    .digest("hex")
    .slice(0, 32);
}

const REQUESTS = { traces: "ExportTraceServiceRequest", logs: "ExportLogsServiceRequest" } as const;

async function receiveRecords(
  { queue, lane, recordAdmission, answered, dictionary }: ReceiverParts,
  signal: "traces" | "logs",
  body: Buffer,
  encoding: Encoding,
  environment: string | null,
): Promise<Received> {
  const message = REQUESTS[signal];
  const plain =
    encoding === "protobuf" ? decodeMessage(message, body) : messageFromJson(message, body.toString("utf8"));
  const allowed = recordAdmission(environment);
  dictionary.trim();
  const take = () => {
    if (signal === "traces") {
      const { spans, refused } = readSpans(plain, allowed);
      return { count: spans.length, refused, batch: lane.admitSpans(spans) };
    }
    const { records, refused } = readLogs(plain, allowed);
    return { count: records.length, refused, batch: lane.admitLogs(records) };
  };
  const { count, refused, batch } = take();
  batch.request = requestId(signal, environment, body);
  await queue.submit(batch);
  const rejected = refused.count + batch.rejected;
  answered?.(signal, 200, count, rejected);
  return { rejected, message: [refused.message(), batch.message()].filter(Boolean).join("; ") };
}

/** A failure as senders are told of it. */
export interface ReceiverFailure {
  /** HTTP. */
  status: number;
  /** google.rpc.Code. */
  code: number;
  message: string;
}

/** What a failure is called; one that is not the sender's is reported. */
export function failureOf(error: unknown, report: (error: unknown, fault: string) => void): ReceiverFailure {
  if (error instanceof RequestError) return { status: error.status, code: error.code, message: error.message };
  if (error instanceof WireError)
    return { status: 400, code: 3, message: `the body is not an OTLP request: ${error.message}` };
  if (error instanceof JsonError) return { status: 400, code: 3, message: error.message };
  if (error instanceof FullError) return { status: 429, code: 8, message: `${error.message}; send again later` };
  const fault = randomBytes(4).toString("hex");
  report(error, fault);
  return {
    status: 503,
    code: 14,
    message: `what came could not be written; send it again. If it lasts, the intake's log says more under ${fault}`,
  };
}
