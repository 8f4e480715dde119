import * as grpc from "@grpc/grpc-js";
import fc from "fast-check";
import { encodeMessage } from "@/core/otlp/encode";
import { Request } from "@/core/otlp/testing/schema";
import { createGrpcReceiver, listenGrpc } from "./grpc";
import { ReceiverSurroundings } from "./testing/surroundings";

const around = new ReceiverSurroundings();
const server = createGrpcReceiver(around.parts);
let client: grpc.Client;
/** The same, with everything it sends packed. */
let packing: grpc.Client;

beforeAll(async () => {
  const port = await listenGrpc(server, 0);
  const connect = (options: grpc.ClientOptions) =>
    new grpc.Client(`127.0.0.1:${port}`, grpc.credentials.createInsecure(), {
      "grpc.max_send_message_length": -1,
      ...options,
    });
  client = connect({});
  packing = connect({ "grpc.default_compression_algorithm": grpc.compressionAlgorithms.gzip });
});
afterAll(() => {
  client.close();
  packing.close();
  server.forceShutdown();
});
beforeEach(() => around.clear());

const same = (bytes: Buffer) => bytes;

function send(
  body: Uint8Array,
  headers: Record<string, string> = {},
  path = "MetricsService/Export",
  by = client,
): Promise<Buffer> {
  const metadata = new grpc.Metadata();
  for (const [name, value] of Object.entries(headers)) metadata.set(name, value);
  return new Promise((resolve, reject) => {
    by.makeUnaryRequest(
      `/opentelemetry.proto.collector.metrics.v1.${path}`,
      same,
      same,
      Buffer.from(body),
      metadata,
      (error, answer) => (error ? reject(error) : resolve(answer!)),
    );
  });
}

const attribute = (key: string, stringValue: string) => ({ key, value: { stringValue } });
function message(environment?: string, more: object[] = []): Uint8Array {
  const attributes = environment ? [attribute("deployment.environment.name", environment)] : [];
  const gauge = { dataPoints: [{ timeUnixNano: "1764000000000000000", asDouble: 1 }] };
  return Request.encode(
    Request.fromObject({
      resourceMetrics: [{ resource: { attributes }, scopeMetrics: [{ metrics: [{ name: "m", gauge }, ...more] }] }],
    }),
  ).finish();
}

test("points are taken and answered after the commit", async () => {
  expect((await send(message())).length).toBe(0);
  expect(around.committed.flat().map(({ points }) => points)).toEqual([1]);
});

test("gzip is taken", async () => {
  await send(message(), {}, undefined, packing);
  expect(around.committed.flat()).toHaveLength(1);
});

test("what was refused is told, and the rest is taken", async () => {
  const answer = await send(message(undefined, [{ name: "bad", gauge: { dataPoints: [{ asDouble: 1 }] } }]));
  expect(answer.toString()).toContain("bad: a point has no time");
  expect(around.committed.flat()).toHaveLength(1);
});

test("a key's environment stands in where none is named, and must not differ from one that is", async () => {
  await send(message(), { authorization: "Bearer production" });
  const environments = () =>
    around.committed
      .flat()
      .flatMap((batch) => [...batch.series()].map(({ identity }) => identity.resource["deployment.environment.name"]));
  expect(environments()).toEqual(["production"]);
  await send(message("production"), { authorization: "Bearer production" });
  expect(environments()).toEqual(["production", "production"]);
  const answer = await send(message("staging"), { authorization: "Bearer production" });
  expect(answer.toString()).toContain("the key is for the environment production, the resource names staging");
});

test("a wrong key is turned away and noted", async () => {
  await expect(send(message(), { authorization: "Bearer wrong" })).rejects.toMatchObject({ code: 16 });
  expect(around.rejected).toMatchObject([
    { address: "127.0.0.1", request: "OTLP/gRPC metrics", status: 401, reason: "the key is not known here" },
  ]);
});

test("a failing store is UNAVAILABLE, and nothing is acknowledged", async () => {
  around.databaseAway = true;
  await expect(send(message())).rejects.toMatchObject({ code: 14 });
});

test("what is too large is refused, packed or not, without the memory growing", async () => {
  await expect(send(Buffer.alloc(17 * 1024 * 1024))).rejects.toMatchObject({ code: 8 });
  const before = process.memoryUsage().rss;
  const bomb = send(Buffer.alloc(100 * 1024 * 1024), {}, undefined, packing);
  await expect(bomb).rejects.toMatchObject({ code: 8 });
  // The client's own 100 MiB, packed in this process, and what the server may hold.
  expect(process.memoryUsage().rss - before).toBeLessThan(300 * 1024 * 1024);
  expect(around.committed.flat()).toEqual([]);
});

describe("spans and log records", () => {
  const request = (path: string, body: Uint8Array, headers: Record<string, string> = {}): Promise<Buffer> => {
    const metadata = new grpc.Metadata();
    for (const [name, value] of Object.entries(headers)) metadata.set(name, value);
    return new Promise((resolve, reject) => {
      client.makeUnaryRequest(
        `/opentelemetry.proto.collector.${path}/Export`,
        same,
        same,
        Buffer.from(body),
        metadata,
        (error, answer) => (error ? reject(error) : resolve(answer!)),
      );
    });
  };
  const span = {
    traceId: "0af7651916cd43dd8448eb211c80319c",
    spanId: "b7ad6b7169203331",
    name: "open door",
    startTimeUnixNano: "1764000000000000000",
    endTimeUnixNano: "1764000000250000000",
  };
  const spans = (...all: object[]) =>
    encodeMessage("ExportTraceServiceRequest", { resourceSpans: [{ scopeSpans: [{ spans: all }] }] });

  test("spans are taken, with the environment of the sender's key, and what is wrong is told", async () => {
    const answer = await request("trace.v1.TraceService", spans(span, { ...span, spanId: "" }), {
      authorization: "Bearer production",
    });
    expect(answer.toString()).toContain("span open door: its span id");
    expect(around.committed.flat().flatMap(({ sideOutputs: aside }) => aside?.spans ?? [])).toMatchObject([
      { name: "open door", took: 250_000_000, resource: { "deployment.environment.name": "production" } },
    ]);
  });

  test("a signal that the pipeline does not take is UNIMPLEMENTED", async () => {
    await expect(request("logs.v1.LogsService", new Uint8Array())).rejects.toMatchObject({ code: 12 });
    expect(around.rejected).toMatchObject([
      { request: "OTLP/gRPC logs", status: 404, reason: expect.stringContaining("the pipeline takes no logs") },
    ]);
  });

  test("whatever bytes come for spans, the answer is OK or INVALID_ARGUMENT", async () => {
    const valid = spans(span);
    const place = fc.tuple(fc.nat(valid.length - 1), fc.nat(255));
    await fc.assert(
      fc.asyncProperty(place, async ([at, byte]) => {
        const body = valid.map((old, i) => (i === at ? byte : old));
        const code = await request("trace.v1.TraceService", body).then(
          () => 0,
          (error: { code: number }) => error.code,
        );
        expect([0, 3]).toContain(code);
      }),
      { numRuns: 60 },
    );
  });
});

test("another method is UNIMPLEMENTED", async () => {
  await expect(send(message(), {}, "TraceService/Export")).rejects.toMatchObject({ code: 12 });
});

test("whatever bytes come, the answer is OK or INVALID_ARGUMENT", async () => {
  const valid = message("x");
  const broken = fc
    .tuple(fc.nat(valid.length - 1), fc.nat(255))
    .map(([at, byte]) => valid.map((old, i) => (i === at ? byte : old)));
  await fc.assert(
    fc.asyncProperty(fc.oneof(fc.uint8Array({ maxLength: 200 }), broken), async (bytes) => {
      const code = await send(bytes).then(
        () => 0,
        (error: grpc.ServiceError) => error.code,
      );
      expect([0, 3]).toContain(code);
    }),
    { numRuns: 300 },
  );
});
