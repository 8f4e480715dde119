import * as grpc from "@grpc/grpc-js";
import { LIMITS } from "@/core/otlp/limits";
import { successProtobuf } from "@/core/otlp/response";
import { SIGNALS, type Signal } from "@/core/otlp/signals";
import { BytesInFlight, FullError } from "./budget";
import type { Certificate } from "./certificate";
import { failureOf, MAX_OPEN_REQUESTS, type ReceiverParts, receive } from "./receive";

/** OTLP/gRPC (OTLP specification 1.x, "OTLP/gRPC"). */

const METHODS: Record<Signal, string> = {
  metrics: "/opentelemetry.proto.collector.metrics.v1.MetricsService/Export",
  traces: "/opentelemetry.proto.collector.trace.v1.TraceService/Export",
  logs: "/opentelemetry.proto.collector.logs.v1.LogsService/Export",
};
/** Codes that are the server's state rather than the request's fault: not noted as turned away. */
const TEMPORARY = new Set([8, 14]);

const same = (buffer: Buffer) => buffer;

/** A server with a method for each signal; bodies stay bytes, for our own readers. */
export function createGrpcReceiver(parts: ReceiverParts): grpc.Server {
  let open = 0;
  const server = new grpc.Server({
    "grpc.max_receive_message_length": LIMITS.grpcBody,
    "grpc.max_send_message_length": 1024 * 1024,
    "grpc.max_concurrent_streams": 100,
    interceptors: [(_, call) => reserving(parts, call)],
  });
  const handlerOf =
    (signal: Signal): grpc.handleUnaryCall<Buffer, Buffer> =>
    (call, callback) => {
      open++;
      const inFlight = new BytesInFlight(parts.budget, addressOf(call.getPeer()));
      answer(parts, signal, call, inFlight, open)
        .then(
          (response) => callback(null, response),
          (error) => callback(refusal(parts, signal, call, error)),
        )
        .finally(() => {
          inFlight.release();
          open--;
        });
    };
  const shape = {
    requestStream: false,
    responseStream: false,
    requestSerialize: same,
    requestDeserialize: same,
    responseSerialize: same,
    responseDeserialize: same,
  } as const;
  for (const signal of SIGNALS)
    server.addService({ Export: { path: METHODS[signal], ...shape } }, { Export: handlerOf(signal) });
  return server;
}

function addressOf(peer: string): string {
  return peer.replace(/:\d+$/, "");
}

/**
 * Holds room for the largest message from before the first of its bytes until all are here: the library keeps what comes
 * until then. @returns a call that is refused at once where there is no room
 */
function reserving(parts: ReceiverParts, call: grpc.ServerInterceptingCallInterface): grpc.ServerInterceptingCall {
  const inFlight = new BytesInFlight(parts.budget, addressOf(call.getPeer()));
  const listener = new grpc.ServerListenerBuilder()
    .withOnReceiveMetadata((metadata, next) => {
      try {
        inFlight.take(LIMITS.grpcBody);
        next(metadata);
      } catch (error) {
        const { code, message } = failureOf(error, parts.report);
        call.sendStatus({ code, details: message });
      }
    })
    .withOnReceiveMessage((message, next) => {
      inFlight.release();
      next(message);
    })
    .withOnReceiveHalfClose((next) => {
      inFlight.release();
      next();
    })
    .withOnCancel(() => inFlight.release())
    .build();
  const responder = new grpc.ResponderBuilder()
    .withStart((next) => next(listener))
    .withSendStatus((status, next) => {
      inFlight.release();
      next(status);
    })
    .build();
  return new grpc.ServerInterceptingCall(call, responder);
}

async function answer(
  parts: ReceiverParts,
  signal: Signal,
  call: grpc.ServerUnaryCall<Buffer, Buffer>,
  inFlight: BytesInFlight,
  open: number,
): Promise<Buffer> {
  const [authorization] = call.metadata.get("authorization");
  const environment = await parts.environmentOf(authorization?.toString());
  if (open > MAX_OPEN_REQUESTS) throw new FullError(`${open} requests are open`);
  inFlight.take(call.request.length);
  const { rejected, message } = await receive(parts, signal, call.request, "protobuf", environment);
  return Buffer.from(successProtobuf(rejected, message));
}

function refusal(
  parts: ReceiverParts,
  signal: Signal,
  call: grpc.ServerUnaryCall<Buffer, Buffer>,
  error: unknown,
): Partial<grpc.StatusObject> {
  const { status, code, message } = failureOf(error, parts.report);
  parts.answered?.(signal, status, 0, 0);
  if (!TEMPORARY.has(code)) {
    const [agent] = call.metadata.get("user-agent");
    parts.rejected?.(addressOf(call.getPeer()), agent?.toString() ?? "", `OTLP/gRPC ${signal}`, status, message);
  }
  return { code, details: message };
}

/**
 * Binds a server to a port.
 *
 * @param host the address to listen on
 * @param certificate what is shown to callers; null speaks without TLS
 * @throws where the port is taken
 */
export function listenGrpc(
  server: grpc.Server,
  port: number,
  host = "127.0.0.1",
  certificate: Certificate | null = null,
): Promise<number> {
  const credentials = certificate
    ? grpc.experimental.createCertificateProviderServerCredentials(certificate, null, false)
    : grpc.ServerCredentials.createInsecure();
  const address = host.includes(":") ? `[${host}]` : host;
  return new Promise((resolve, reject) => {
    server.bindAsync(`${address}:${port}`, credentials, (error, bound) => {
      if (error) reject(error);
      else resolve(bound);
    });
  });
}
