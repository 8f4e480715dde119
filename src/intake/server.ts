import http from "node:http";
import { isLoopbackHost, isLoopbackOrigin } from "@/core/http/loopback";
import type { AllowedTimes } from "@/core/otlp/batch";
import type { Dictionary } from "@/core/otlp/dictionary";
import { decodeMetricsJson, JsonError } from "@/core/otlp/json";
import { decodeMetrics } from "@/core/otlp/protobuf";
import { statusJson, statusProtobuf, successJson, successProtobuf } from "@/core/otlp/response";
import { WireError } from "@/core/otlp/wire";
import { RequestError, readBody } from "./body";
import { type Budget, FullError, Hold } from "./budget";
import type { CommitQueue } from "./queue";

/** What the receiver needs of its surroundings. */
export interface ReceiverParts {
  dictionary: Dictionary;
  queue: CommitQueue;
  /** Bytes of requests that are in work. */
  budget: Budget;
  /** Which times points may name now. */
  allowedTimes: () => AllowedTimes;
  /** Told of failures that are not the sender's. */
  report: (error: unknown) => void;
  /** Told of every request for metrics that was answered. */
  answered?: (status: number, accepted: number, rejected: number) => void;
}

const PROTOBUF = "application/x-protobuf";
const JSON_TYPE = "application/json";
/** Seconds that a sender should wait, for Retry-After. */
const RETRY_AFTER = "5";
/** Requests in work at one time. */
const MOST_OPEN_REQUESTS = 256;

/** OTLP/HTTP for metrics (OTLP specification 1.x, "OTLP/HTTP"), on loopback only. */
export function createReceiver(parts: ReceiverParts): http.Server {
  let open = 0;
  const server = http.createServer((request, response) => {
    open++;
    response.on("close", () => {
      open--;
    });
    handle(parts, request, response, open).catch((error) => {
      parts.report(error);
      if (!response.headersSent) response.writeHead(500).end();
    });
  });
  server.keepAliveTimeout = 65_000;
  return server;
}

function contentType(request: http.IncomingMessage): string {
  return (request.headers["content-type"] ?? "").split(";")[0].trim().toLowerCase();
}

async function handle(
  parts: ReceiverParts,
  request: http.IncomingMessage,
  response: http.ServerResponse,
  open: number,
): Promise<void> {
  const type = contentType(request);
  const hold = new Hold(parts.budget);
  try {
    if (!isLoopbackHost(request.headers.host) || !isLoopbackOrigin(request.headers.origin))
      throw new RequestError(403, "only callers on this machine are served: use localhost as the host", 7);
    const path = (request.url ?? "/").split("?")[0];
    if (path === "/health") return json(response, 200, JSON.stringify({ status: "up" }));
    if (path !== "/v1/metrics")
      throw new RequestError(404, `nothing is received at ${path}; metrics go to /v1/metrics`, 5);
    if (request.method !== "POST") throw new RequestError(405, "metrics are sent with POST", 3);
    if (type !== PROTOBUF && type !== JSON_TYPE)
      throw new RequestError(415, `content type ${type || "(none)"} is not taken; use ${PROTOBUF} or ${JSON_TYPE}`);
    if (open > MOST_OPEN_REQUESTS) throw new FullError(`${open} requests are open`);
    const body = await readBody(request, hold);
    const allowed = parts.allowedTimes();
    parts.dictionary.trim();
    const batch =
      type === PROTOBUF
        ? decodeMetrics(body, parts.dictionary, allowed)
        : decodeMetricsJson(body.toString("utf8"), parts.dictionary, allowed);
    await parts.queue.submit(batch);
    parts.answered?.(200, batch.points, batch.rejected);
    const message = batch.message();
    if (type === PROTOBUF) answer(response, 200, PROTOBUF, successProtobuf(batch.rejected, message));
    else json(response, 200, successJson(batch.rejected, message));
  } catch (error) {
    refuse(parts, request, response, type, error);
  } finally {
    hold.release();
  }
}

function refuse(
  { report, answered }: ReceiverParts,
  request: http.IncomingMessage,
  response: http.ServerResponse,
  type: string,
  error: unknown,
): void {
  let status = 503;
  let code = 14;
  let message = "the points could not be written; send them again";
  if (error instanceof RequestError) ({ status, code, message } = error);
  else if (error instanceof WireError) {
    status = 400;
    code = 3;
    message = `the body is not an OTLP metrics request: ${error.message}`;
  } else if (error instanceof JsonError) {
    status = 400;
    code = 3;
    message = error.message;
  } else if (error instanceof FullError) {
    status = 429;
    code = 8;
    message = `${error.message}; send again later`;
  } else report(error);
  answered?.(status, 0, 0);
  if (status === 503 || status === 429) response.setHeader("Retry-After", RETRY_AFTER);
  // What was not read of the body is not worth reading.
  if (!request.complete) response.setHeader("Connection", "close");
  if (type === PROTOBUF) answer(response, status, PROTOBUF, statusProtobuf(code, message));
  else json(response, status, statusJson(code, message));
}

function answer(response: http.ServerResponse, status: number, type: string, body: Uint8Array | string): void {
  response.writeHead(status, { "Content-Type": type, "Content-Length": Buffer.byteLength(body) });
  response.end(body);
}

function json(response: http.ServerResponse, status: number, body: string): void {
  answer(response, status, JSON_TYPE, body);
}
