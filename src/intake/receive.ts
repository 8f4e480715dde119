import type { Admission, Batch } from "@/core/otlp/batch";
import type { Dictionary } from "@/core/otlp/dictionary";
import { decodeMetricsJson, JsonError } from "@/core/otlp/json";
import { decodeMetrics } from "@/core/otlp/protobuf";
import { WireError } from "@/core/otlp/wire";
import { RequestError } from "./body";
import { type Budget, FullError } from "./budget";
import type { CommitQueue } from "./queue";

/** What all receivers share: rules, limits, and what a failure is called. */

/** What a receiver needs of its surroundings. */
export interface ReceiverParts {
  dictionary: Dictionary;
  queue: CommitQueue;
  /** What points go through on their way to the store. */
  lane?: { admit: (batch: Batch) => void };
  /** Bytes of requests that are in work. */
  budget: Budget;
  /** What a request may say whose token is for an environment (null: any). */
  admission: (environment: string | null) => Admission;
  /** The environment that a request's token is for. @throws RequestError 401 */
  environmentOf: (authorization: string | undefined) => Promise<string | null>;
  /** Told of failures that are not the sender's. */
  report: (error: unknown) => void;
  /** Told of every request for metrics that was answered. */
  answered?: (status: number, accepted: number, rejected: number) => void;
  /** Told of every request that was refused for what it is. */
  turnedAway?: (address: string, agent: string, request: string, status: number, reason: string) => void;
}

/** Requests in work at one time. */
export const MOST_OPEN_REQUESTS = 256;

/** Makes the points of a request durable. @throws what {@link failureOf} names */
export async function receiveMetrics(
  { dictionary, queue, lane, admission, answered }: ReceiverParts,
  body: Buffer,
  encoding: "protobuf" | "json",
  environment: string | null,
): Promise<Batch> {
  const admitted = admission(environment);
  dictionary.trim();
  const batch =
    encoding === "protobuf"
      ? decodeMetrics(body, dictionary, admitted)
      : decodeMetricsJson(body.toString("utf8"), dictionary, admitted);
  const { points } = batch;
  lane?.admit(batch);
  await queue.submit(batch);
  answered?.(200, points, batch.rejected);
  return batch;
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
export function failureOf(error: unknown, report: (error: unknown) => void): ReceiverFailure {
  if (error instanceof RequestError) return { status: error.status, code: error.code, message: error.message };
  if (error instanceof WireError)
    return { status: 400, code: 3, message: `the body is not an OTLP metrics request: ${error.message}` };
  if (error instanceof JsonError) return { status: 400, code: 3, message: error.message };
  if (error instanceof FullError) return { status: 429, code: 8, message: `${error.message}; send again later` };
  report(error);
  return { status: 503, code: 14, message: "the points could not be written; send them again" };
}
