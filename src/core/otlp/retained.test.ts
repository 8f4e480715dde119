import { setFlagsFromString } from "node:v8";
import { runInNewContext } from "node:vm";
import { Dictionary } from "./dictionary";
import { encodeMessage } from "./encode";
import { decodeMetrics } from "./protobuf";

/** What a process keeps of requests once they are answered: the new series, and nothing of the bodies. */

setFlagsFromString("--expose-gc");
const collect = runInNewContext("gc") as () => void;

const MIB = 1024 * 1024;

/** A request with one new series, in a body that is mostly something else. */
function bodyOf(id: number, dataField: "gauge" | "histogram"): Uint8Array {
  const attributes = [{ key: "locker", value: { stringValue: `locker ${id}` } }];
  const filler = { key: "note", value: { stringValue: "x".repeat(4000) } };
  const time = { timeUnixNano: "1764000000000000000", attributes };
  const point =
    dataField === "gauge"
      ? { ...time, asDouble: 1 }
      : { ...time, count: "1", bucketCounts: ["1", "0"], explicitBounds: [5] };
  const data =
    dataField === "gauge"
      ? { gauge: { dataPoints: [point] } }
      : { histogram: { aggregationTemporality: 1, dataPoints: [point] } };
  return encodeMessage("ExportMetricsServiceRequest", {
    resourceMetrics: [
      { resource: { attributes: [filler] }, scopeMetrics: [{ metrics: [{ name: `door.${dataField}`, ...data }] }] },
    ],
  } as never);
}

test.each(["gauge", "histogram"] as const)("bodies of new series of a %s are let go of", async (kind) => {
  const dictionary = new Dictionary();
  const decodeOne = (id: number) => {
    const message = bodyOf(id, kind);
    // As the socket gives it: a part of a larger buffer.
    const buffer = Buffer.from(new ArrayBuffer(MIB));
    buffer.set(message);
    decodeMetrics(buffer.subarray(0, message.length), dictionary);
  };
  decodeOne(0);
  collect();
  const before = process.memoryUsage().arrayBuffers;
  for (let id = 1; id <= 40; id++) decodeOne(id);
  // What nobody holds goes after the turn in which it was made.
  await new Promise((resolve) => setTimeout(resolve));
  collect();
  expect((process.memoryUsage().arrayBuffers - before) / MIB).toBeLessThan(4);
});
