import http from "node:http";
import type { AddressInfo } from "node:net";
import zlib from "node:zlib";
import { ANY_TIME, type Batch } from "@/core/otlp/batch";
import { Dictionary } from "@/core/otlp/dictionary";
import { Request as OtlpRequest } from "@/core/otlp/testing/schema";
import { Budget } from "./budget";
import { CommitQueue } from "./queue";
import { createReceiver } from "./server";

let committed: number[] = [];
let fail = false;
const commit = async (batches: readonly Batch[]) => {
  if (fail) throw new Error("the database is away");
  committed.push(batches.reduce((sum, { points }) => sum + points, 0));
};
const server = createReceiver({
  dictionary: new Dictionary(),
  queue: new CommitQueue(commit, () => false),
  budget: new Budget(64 * 1024 * 1024),
  allowedTimes: () => ANY_TIME,
  report: () => {},
});
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
beforeEach(() => {
  committed = [];
  fail = false;
});

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
  expect(committed).toEqual([1]);
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
  expect(committed).toEqual([1, 1]);
});

test.each<[string, number, string, Buffer, Record<string, string>, string?, string?]>([
  ["another path", 404, "/v1/metrics", json({}), JSON_TYPE, "/v1/traces"],
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
    const answer = await send(body, headers, path, method).catch((error) => {
      // A sender that is still sending may see the connection end before it reads the answer.
      if (status === 413) return null;
      throw error;
    });
    if (!answer) return;
    expect(answer.status).toBe(status);
    expect(answer.body.toString()).toContain(word);
    expect(committed).toEqual([]);
  },
);

test("a hundred megabytes out of a hundred kilobytes are refused without being unpacked", async () => {
  const bomb = zlib.gzipSync(Buffer.alloc(100 * 1024 * 1024), { level: 9 });
  const before = process.memoryUsage().rss;
  const answer = await send(bomb, { ...PROTOBUF, "Content-Encoding": "gzip" });
  expect(answer.status).toBe(413);
  expect(process.memoryUsage().rss - before).toBeLessThan(64 * 1024 * 1024);
});

test("a failing store is answered 503 with the time to wait, and nothing is acknowledged", async () => {
  fail = true;
  const answer = await send(json(MESSAGE), JSON_TYPE);
  expect(answer.status).toBe(503);
  expect(Number(answer.headers["retry-after"])).toBeGreaterThan(0);
  expect(committed).toEqual([]);
});
