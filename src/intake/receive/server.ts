import http from "node:http";
import https from "node:https";
import type { Socket } from "node:net";
import { isLoopbackHost, isLoopbackOrigin } from "@/core/http/loopback";
import { statusJson, statusProtobuf, successJson, successProtobuf } from "@/core/otlp/response";
import type { Signal } from "@/core/otlp/signals";
import { RequestError, readBody } from "./body";
import { BytesInFlight, FullError } from "./budget";
import type { Certificate } from "./certificate";
import { failureOf, MAX_OPEN_REQUESTS, type ReceiverParts, receive } from "./receive";

const PROTOBUF = "application/x-protobuf";
const JSON_TYPE = "application/json";
/** Seconds that a sender should wait, for Retry-After. */
const RETRY_AFTER = "5";
/** How long the head of a request, and all of it, may take to come, ms. */
const HEAD_TIME = 10_000;
const REQUEST_TIME = 30_000;
/** How HTTP/2, and with it gRPC, begins (RFC 9113, section 3.4). */
const HTTP2 = "PRI * HTTP/2.0";

/** An answer to a request that sends nothing. */
export interface OtherAnswer {
  status: number;
  type: string;
  body: string;
}

/** Answers other paths than those of OTLP; null where it does not know the path. @throws RequestError */
export type OtherPaths = (path: string, request: http.IncomingMessage) => Promise<OtherAnswer | null>;

export function jsonAnswer(body: object): OtherAnswer {
  return { status: 200, type: JSON_TYPE, body: JSON.stringify(body) };
}

const SIGNALS: Readonly<Record<string, Signal>> = {
  "/v1/metrics": "metrics",
  "/v1/traces": "traces",
  "/v1/logs": "logs",
};

/**
 * OTLP/HTTP (OTLP specification 1.x, "OTLP/HTTP").
 *
 * @param certificate what is shown to callers; null speaks without TLS
 */
export function createReceiver(
  parts: ReceiverParts,
  others: OtherPaths = async () => null,
  certificate: Certificate | null = null,
): http.Server {
  const work: Work = { requests: 0 };
  // Who sends slower than this holds up others: heads come at once, and a body of the most that is taken in half a minute.
  const times = { headersTimeout: HEAD_TIME, requestTimeout: REQUEST_TIME, connectionsCheckingInterval: 1000 };
  const listener: http.RequestListener = (request, response) => {
    handle(parts, others, request, response, work).catch((error) => {
      parts.report(error);
      if (!response.headersSent) response.writeHead(500).end();
    });
  };
  const shown = certificate && { cert: certificate.identity.certificate, key: certificate.identity.privateKey };
  const server = shown ? https.createServer({ ...times, ...shown }, listener) : http.createServer(times, listener);
  certificate?.addIdentityCertificateListener((identity) => {
    if (identity) (server as https.Server).setSecureContext({ cert: identity.certificate, key: identity.privateKey });
  });
  server.on("clientError", (error: Error & { code?: string; rawPacket?: Buffer }, socket: Socket) => {
    // A connection that broke or timed out is nobody's mistake; what could not be read as HTTP is.
    if (!error.code?.startsWith("HPE_") || error.code === "HPE_INVALID_EOF_STATE") return socket.destroy();
    const begin = error.rawPacket?.toString("latin1", 0, 80) ?? "";
    const reason = begin.startsWith(HTTP2)
      ? "gRPC was spoken where OTLP/HTTP is: use the gRPC port (usually 4317), or OTEL_EXPORTER_OTLP_PROTOCOL=http/protobuf"
      : "what came is not HTTP; was TLS spoken? Use http:// rather than https://";
    parts.rejected?.(socket.remoteAddress ?? "", "", begin.startsWith(HTTP2) ? "HTTP/2" : "not HTTP", 400, reason);
    if (socket.writable) socket.end("HTTP/1.1 400 Bad Request\r\nConnection: close\r\n\r\n");
    else socket.destroy();
  });
  server.keepAliveTimeout = 65_000;
  return server;
}

function contentType(request: http.IncomingMessage): string {
  return (request.headers["content-type"] ?? "").split(";")[0].trim().toLowerCase();
}

/** Requests that are here as a whole and not answered yet. Those that are still coming are bounded by their bytes and time. */
interface Work {
  requests: number;
}

async function working<T>(work: Work, receiving: () => Promise<T>): Promise<T> {
  if (work.requests >= MAX_OPEN_REQUESTS) throw new FullError(`${work.requests} requests are in work`);
  work.requests++;
  try {
    return await receiving();
  } finally {
    work.requests--;
  }
}

async function handle(
  parts: ReceiverParts,
  others: OtherPaths,
  request: http.IncomingMessage,
  response: http.ServerResponse,
  work: Work,
): Promise<void> {
  const type = contentType(request);
  const inFlight = new BytesInFlight(parts.budget, request.socket.remoteAddress ?? "");
  try {
    // Where keys are shown, a page that was opened elsewhere has none.
    const here = parts.keysOnly === true || isLoopbackHost(request.headers.host);
    if (!here || !isLoopbackOrigin(request.headers.origin))
      throw new RequestError(403, "only callers on this machine are served: use localhost as the host", 7);
    const path = (request.url ?? "/").split("?")[0];
    const signal = SIGNALS[path];
    if (!signal) {
      const other = await others(path, request);
      if (other) return answer(response, other.status, other.type, other.body);
      const paths = Object.keys(SIGNALS).join(", ");
      throw new RequestError(404, `nothing is received at ${path}; what there is goes to ${paths}`, 5);
    }
    if (request.method !== "POST") throw new RequestError(405, `${signal} are sent with POST`, 3);
    if (type !== PROTOBUF && type !== JSON_TYPE)
      throw new RequestError(415, `content type ${type || "(none)"} is not taken; use ${PROTOBUF} or ${JSON_TYPE}`);
    const environment = await parts.environmentOf(request.headers.authorization);
    const body = await readBody(request, inFlight);
    const encoding = type === PROTOBUF ? "protobuf" : "json";
    const { rejected, message } = await working(work, () => receive(parts, signal, body, encoding, environment));
    if (type === PROTOBUF) answer(response, 200, PROTOBUF, successProtobuf(rejected, message));
    else json(response, 200, successJson(signal, rejected, message));
  } catch (error) {
    refuse(parts, request, response, type, error);
  } finally {
    inFlight.release();
  }
}

function refuse(
  { report, answered, rejected }: ReceiverParts,
  request: http.IncomingMessage,
  response: http.ServerResponse,
  type: string,
  error: unknown,
): void {
  const { status, code, message } = failureOf(error, report);
  answered?.(SIGNALS[(request.url ?? "").split("?")[0]] ?? "metrics", status, 0, 0);
  if (status === 503 || status === 429) response.setHeader("Retry-After", RETRY_AFTER);
  else {
    const asked = `${request.method} ${request.url}`;
    rejected?.(request.socket.remoteAddress ?? "", request.headers["user-agent"] ?? "", asked, status, message);
  }
  if (status === 401) response.setHeader("WWW-Authenticate", "Bearer");
  if (!request.complete) passOver(request);
  if (type === PROTOBUF) answer(response, status, PROTOBUF, statusProtobuf(code, message));
  else json(response, status, statusJson(code, message));
}

/** What is passed over of a body that is not read, bytes, and for how long, ms. */
const PASSED_OVER = 64 * 1024 * 1024;
const LINGERS = 5000;

/**
 * Passes over the rest of a body that is refused: whoever is still sending would else find the connection closed, and never
 * read why (RFC 9112, section 9.6).
 */
function passOver(request: http.IncomingMessage): void {
  let left = PASSED_OVER;
  const timer = setTimeout(() => request.socket.destroy(), LINGERS);
  request.on("data", (chunk: Buffer) => {
    left -= chunk.length;
    if (left < 0) request.socket.destroy();
  });
  request.once("close", () => clearTimeout(timer));
  request.once("end", () => clearTimeout(timer));
  request.resume();
}

function answer(response: http.ServerResponse, status: number, type: string, body: Uint8Array | string): void {
  response.writeHead(status, { "Content-Type": type, "Content-Length": Buffer.byteLength(body) });
  response.end(body);
}

function json(response: http.ServerResponse, status: number, body: string): void {
  answer(response, status, JSON_TYPE, body);
}
