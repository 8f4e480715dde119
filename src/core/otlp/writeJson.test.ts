import fc from "fast-check";
import { ADMIT_ALL } from "./batch/admission";
import type { Batch } from "./batch/batch";
import { decodeMessage } from "./decode";
import { Dictionary } from "./dictionary";
import { encodeMessage } from "./encode";
import { decodeMetricsJson } from "./json";
import { outgoing } from "./outgoing";
import { decodeMetrics } from "./protobuf";
import { flat, sorted } from "./testing/flat";
import { encode, request } from "./testing/requests";
import { Request } from "./testing/schema";
import { metricsRequest } from "./writeJson";

const ALLOWED = { ...ADMIT_ALL, to: 4e12 };

function written(batch: Batch): string {
  const { metrics, naming } = outgoing(batch);
  return JSON.stringify(metricsRequest(metrics, naming));
}

test("what is written is read again as it was, from requests with every kind of point", () => {
  fc.assert(
    fc.property(request, (message) => {
      const batch = decodeMetrics(encode(message), new Dictionary(), ALLOWED);
      const again = decodeMetricsJson(written(batch), new Dictionary(), ALLOWED);
      expect(again.message()).toBe("");
      expect(flat(again)).toEqual(flat(batch));
    }),
    { numRuns: 400 },
  );
});

test("as protobuf it is read again as it was, by our reader of points and by a general library", () => {
  const protobuf = (batch: Batch) => {
    const { metrics, naming } = outgoing(batch);
    return encodeMessage("ExportMetricsServiceRequest", metricsRequest(metrics, naming));
  };
  fc.assert(
    fc.property(request, (message) => {
      const batch = decodeMetrics(encode(message), new Dictionary(), ALLOWED);
      const bytes = protobuf(batch);
      const again = decodeMetrics(bytes, new Dictionary(), ALLOWED);
      expect(again.message()).toBe("");
      expect(flat(again)).toEqual(flat(batch));
      expect(again.exemplars).toHaveLength(batch.exemplars.length);
      const other = decodeMetrics(Request.encode(Request.decode(bytes)).finish(), new Dictionary(), ALLOWED);
      expect(flat(other)).toEqual(flat(batch));
      const plain = decodeMessage("ExportMetricsServiceRequest", bytes);
      const once = encodeMessage("ExportMetricsServiceRequest", plain);
      expect(flat(decodeMetrics(once, new Dictionary(), ALLOWED))).toEqual(flat(batch));
    }),
    { numRuns: 300 },
  );
});

test("exemplars stay with their series", () => {
  const exemplars = (batch: Batch) =>
    batch.exemplars
      .map(({ series, attributes, ...one }) =>
        JSON.stringify({ ...one, attributes: sorted(attributes), key: sorted(series.identity.attributes) }),
      )
      .sort();
  fc.assert(
    fc.property(request, (message) => {
      const batch = decodeMetrics(encode(message), new Dictionary(), ALLOWED);
      const again = decodeMetricsJson(written(batch), new Dictionary(), ALLOWED);
      expect(exemplars(again)).toEqual(exemplars(batch));
    }),
    { numRuns: 200 },
  );
});

test("an exemplar goes to the point that covers its time", () => {
  const point = (seconds: number) => ({ timeUnixNano: String(BigInt(seconds) * 1_000_000_000n), asDouble: seconds });
  const exemplar = { timeUnixNano: "15000000000", asDouble: 1, filteredAttributes: [] };
  const message = {
    resourceMetrics: [
      {
        resource: { attributes: [] },
        scopeMetrics: [
          {
            scope: { name: "", version: "" },
            metrics: [
              { name: "m", gauge: { dataPoints: [{ ...point(10), exemplars: [exemplar] }, point(20), point(30)] } },
            ],
          },
        ],
      },
    ],
  };
  const batch = decodeMetricsJson(JSON.stringify(message), new Dictionary());
  const found = JSON.parse(written(batch)).resourceMetrics[0].scopeMetrics[0].metrics[0].gauge.dataPoints;
  expect(found.map((one: { exemplars?: unknown[] }) => one.exemplars?.length ?? 0)).toEqual([0, 1, 0]);
});
