import http from "node:http";
import net, { type AddressInfo } from "node:net";
import zlib from "node:zlib";
import fc from "fast-check";
import { encodeMessage } from "@/core/otlp/encode";
import { Request as OtlpRequest } from "@/core/otlp/testing/schema";
import { createReceiver } from "./server";
import { ReceiverSurroundings } from "./testing/surroundings";

const around = new ReceiverSurroundings();
const server = createReceiver(around.parts);
/** Points of each commit. */
const committed = () => around.committed.map((batches) => batches.reduce((sum, { points }) => sum + points, 0));
let port = 0;

beforeAll((done) => {
  server.listen(0, "127.0.0.1", () => {
    port = (server.address() as AddressInfo).port;
    done();
  });
});
afterAll((done) => {
  server.close(() => done());
  server.closeAllConnections();
});
beforeEach(() => around.clear());

const MESSAGE = {
  resourceMetrics: [
    {
      scopeMetrics: [
        { metrics: [{ name: "m", gauge: { dataPoints: [{ timeUnixNano: "1764000000000000000", asDouble: 1 }] } }] },
      ],
    },
  ],
};
const PARTLY = {
  resourceMetrics: [
    {
      scopeMetrics: [
        {
          metrics: [
            ...MESSAGE.resourceMetrics[0].scopeMetrics[0].metrics,
            { name: "bad", gauge: { dataPoints: [{ asDouble: 1 }] } },
          ],
        },
      ],
    },
  ],
};
const protobuf = (message: object) => Buffer.from(OtlpRequest.encode(OtlpRequest.fromObject(message)).finish());
const json = (message: object) => Buffer.from(JSON.stringify(message));

interface Answer {
  status: number;
  headers: http.IncomingHttpHeaders;
  body: Buffer;
}

function send(body: Buffer, headers: Record<string, string>, path = "/v1/metrics", method = "POST"): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const request = http.request(
      { host: "127.0.0.1", port, path, method, headers: { ...headers, Connection: "close" } },
      (response) => {
        const chunks: Buffer[] = [];
        response.on("data", (chunk) => chunks.push(chunk));
        response.on("end", () =>
          resolve({ status: response.statusCode!, headers: response.headers, body: Buffer.concat(chunks) }),
        );
      },
    );
    request.on("error", reject);
    request.end(body);
  });
}

const PROTOBUF = { "Content-Type": "application/x-protobuf" };
const JSON_TYPE = { "Content-Type": "application/json; charset=utf-8" };

test.each<[string, Buffer, Record<string, string>]>([
  ["protobuf", protobuf(MESSAGE), PROTOBUF],
  ["JSON", json(MESSAGE), JSON_TYPE],
  ["gzip", zlib.gzipSync(protobuf(MESSAGE)), { ...PROTOBUF, "Content-Encoding": "gzip" }],
  ["deflate", zlib.deflateSync(json(MESSAGE)), { ...JSON_TYPE, "Content-Encoding": "deflate" }],
])("%s is taken and answered in its own encoding, after the commit", async (_, body, headers) => {
  const answer = await send(body, headers);
  expect(answer.status).toBe(200);
  expect(committed()).toEqual([1]);
  expect(answer.headers["content-type"]).toBe(headers["Content-Type"].split(";")[0]);
  expect(answer.body.toString()).toBe(headers === JSON_TYPE || headers["Content-Encoding"] === "deflate" ? "{}" : "");
});

test("what was refused is told with its metric, and the rest is taken", async () => {
  const asJson = await send(json(PARTLY), JSON_TYPE);
  expect(asJson.status).toBe(200);
  expect(JSON.parse(asJson.body.toString())).toEqual({
    partialSuccess: { rejectedDataPoints: "1", errorMessage: "bad: a point has no time (1 point)" },
  });
  const asProtobuf = await send(protobuf(PARTLY), PROTOBUF);
  expect(asProtobuf.body.includes(Buffer.from("bad: a point has no time"))).toBe(true);
  // partial_success (field 1) with rejected_data_points (field 1) = 1
  expect([asProtobuf.body[0], asProtobuf.body[2], asProtobuf.body[3]]).toEqual([0x0a, 0x08, 1]);
  expect(committed()).toEqual([1, 1]);
});

test.each<[string, number, string, Buffer, Record<string, string>, string?, string?]>([
  ["another path", 404, "/v1/metrics", json({}), JSON_TYPE, "/v1/profiles"],
  ["another method", 405, "POST", json({}), JSON_TYPE, "/v1/metrics", "PUT"],
  ["another content type", 415, "application/json", json({}), { "Content-Type": "text/plain" }],
  ["another encoding", 415, "gzip", json({}), { ...JSON_TYPE, "Content-Encoding": "br" }],
  ["broken gzip", 400, "gzip", Buffer.from("not gzip"), { ...JSON_TYPE, "Content-Encoding": "gzip" }],
  ["broken JSON", 400, "JSON", Buffer.from("{"), JSON_TYPE],
  [
    "JSON of another shape",
    400,
    "resourceMetrics.0.scopeMetrics",
    json({ resourceMetrics: [{ scopeMetrics: 5 }] }),
    JSON_TYPE,
  ],
  ["broken protobuf", 400, "byte", Buffer.from([10, 200, 1]), PROTOBUF],
  ["a foreign host", 403, "localhost", json(MESSAGE), { ...JSON_TYPE, Host: "fern-anvil.example" }],
  ["a foreign page", 403, "localhost", json(MESSAGE), { ...JSON_TYPE, Origin: "http://fern-anvil.example" }],
  ["a body that is too large", 413, "16 MiB", Buffer.alloc(17 * 1024 * 1024), PROTOBUF],
])(
  "%s is answered %d and speaks of %s",
  async (_, status, word, body, headers, path = "/v1/metrics", method = "POST") => {
    const answer = await send(body, headers, path, method);
    expect(answer.status).toBe(status);
    expect(answer.body.toString()).toContain(word);
    expect(committed()).toEqual([]);
  },
);

test("a body without a length that becomes too large: whoever sends it reads why, every time", async () => {
  const part = Buffer.alloc(1024 * 1024);
  for (let round = 0; round < 20; round++) {
    const answer = await new Promise<{ status: number; text: string }>((resolve, reject) => {
      const request = http.request({ host: "127.0.0.1", port, path: "/v1/metrics", method: "POST", headers: PROTOBUF });
      request.on("error", reject);
      request.on("response", async (response) => {
        let text = "";
        for await (const chunk of response) text += String(chunk);
        resolve({ status: response.statusCode!, text });
      });
      for (let k = 0; k < 24; k++) request.write(part);
      request.end();
    });
    expect(answer.status).toBe(413);
    expect(answer.text).toContain("16 MiB");
  }
});

test("a sender that is refused and goes on sending is not listened to for ever", async () => {
  const request = http.request({ host: "127.0.0.1", port, path: "/v1/profiles", method: "POST" });
  const ended = new Promise((resolve) => request.once("error", resolve));
  request.once("response", (response) => response.resume());
  const part = Buffer.alloc(4 * 1024 * 1024);
  let sent = 0;
  const more = () => {
    sent += part.length;
    if (!request.destroyed) request.write(part, () => setImmediate(more));
  };
  more();
  await ended;
  expect(sent).toBeGreaterThan(64 * 1024 * 1024);
  expect(sent).toBeLessThan(512 * 1024 * 1024);
});

test("a hundred megabytes out of a hundred kilobytes are refused without being unpacked", async () => {
  const bomb = zlib.gzipSync(Buffer.alloc(100 * 1024 * 1024), { level: 9 });
  const before = process.memoryUsage().rss;
  const answer = await send(bomb, { ...PROTOBUF, "Content-Encoding": "gzip" });
  expect(answer.status).toBe(413);
  expect(process.memoryUsage().rss - before).toBeLessThan(64 * 1024 * 1024);
});

test("a failing store is answered 503 with the time to wait, and nothing is acknowledged", async () => {
  around.databaseAway = true;
  const answer = await send(json(MESSAGE), JSON_TYPE);
  expect(answer.status).toBe(503);
  expect(Number(answer.headers["retry-after"])).toBeGreaterThan(0);
  expect(committed()).toEqual([]);
});

test("a wrong key is turned away, with the way to say who one is, and noted", async () => {
  const answer = await send(json(MESSAGE), { ...JSON_TYPE, Authorization: "Bearer wrong", "User-Agent": "doorbell/1" });
  expect(answer.status).toBe(401);
  expect(answer.headers["www-authenticate"]).toBe("Bearer");
  expect(committed()).toEqual([]);
  expect(around.rejected).toMatchObject([
    { agent: "doorbell/1", request: "POST /v1/metrics", status: 401, reason: "the key is not known here" },
  ]);
});

test("another path is noted, a store that is away is not", async () => {
  await send(json(MESSAGE), JSON_TYPE, "/v1/profiles");
  around.databaseAway = true;
  await send(json(MESSAGE), JSON_TYPE);
  expect(around.rejected).toMatchObject([{ reason: expect.stringContaining("nothing is received at /v1/profiles") }]);
});

/** Sends raw bytes and waits until the connection ends. */
function raw(bytes: Uint8Array): Promise<string> {
  return new Promise((resolve) => {
    let said = "";
    const socket = net.connect(port, "127.0.0.1", () => socket.write(bytes));
    socket.on("data", (chunk) => {
      said += chunk.toString("latin1");
    });
    socket.on("close", () => resolve(said));
    socket.on("error", () => {});
  });
}

test("gRPC at the HTTP port is told apart from other noise", async () => {
  await raw(Buffer.from("PRI * HTTP/2.0\r\n\r\nSM\r\n\r\n"));
  await raw(Buffer.from([0x16, 3, 1, 2, 0, 1, 0, 1, 0xfc, 3, 3]));
  expect(around.rejected[0].reason).toContain("gRPC was spoken");
  expect(around.rejected[1].reason).toContain("was TLS spoken?");
});

test("whatever body comes, the answer is 200 or a reasoned 400", async () => {
  const valid = protobuf(MESSAGE);
  const broken = fc
    .tuple(fc.nat(valid.length - 1), fc.nat(255))
    .map(([at, byte]) => Buffer.from(valid.map((old, i) => (i === at ? byte : old))));
  const anyJson = fc.json().map((text) => Buffer.from(text));
  const anyBytes = fc.uint8Array({ maxLength: 200 }).map((bytes) => Buffer.from(bytes));
  await fc.assert(
    fc.asyncProperty(fc.oneof(broken, anyJson, anyBytes), fc.boolean(), fc.boolean(), async (body, asJson, packed) => {
      const headers = { ...(asJson ? JSON_TYPE : PROTOBUF), ...(packed ? { "Content-Encoding": "gzip" } : {}) };
      const answer = await send(
        packed && body.length % 2 === 0 ? zlib.gzipSync(body) : body,
        headers as Record<string, string>,
      );
      expect([200, 400]).toContain(answer.status);
      if (answer.status === 400) expect(answer.body.length).toBeGreaterThan(10);
    }),
    { numRuns: 300 },
  );
});

test("spans are taken in both encodings; what is wrong is said, and a signal that is off is not taken", async () => {
  const span = {
    traceId: "0af7651916cd43dd8448eb211c80319c",
    spanId: "b7ad6b7169203331",
    name: "open door",
    startTimeUnixNano: "1764000000000000000",
    endTimeUnixNano: "1764000000250000000",
  };
  const body = { resourceSpans: [{ scopeSpans: [{ spans: [span, { ...span, traceId: "00" }] }] }] };
  const answer = await send(json(body), JSON_TYPE, "/v1/traces");
  expect(answer.status).toBe(200);
  expect(JSON.parse(answer.body.toString())).toEqual({
    partialSuccess: { rejectedSpans: "1", errorMessage: expect.stringContaining("trace id") },
  });
  const bytes = Buffer.from(encodeMessage("ExportTraceServiceRequest", body));
  const second = await send(bytes, PROTOBUF, "/v1/traces");
  expect(second.status).toBe(200);
  expect(second.body[0]).toBe(10);
  const broken = await send(bytes.subarray(0, bytes.length - 3), PROTOBUF, "/v1/traces");
  expect(broken.status).toBe(400);
  const off = await send(json({}), JSON_TYPE, "/v1/logs");
  expect(off.status).toBe(404);
  expect(off.body.toString()).toContain("the pipeline takes no logs");
});
