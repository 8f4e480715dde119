import fc from "fast-check";
import { ADMIT_ALL } from "../otlp/batch/admission";
import { Dictionary } from "../otlp/dictionary";
import { decodeMetrics } from "../otlp/protobuf";
import { flat } from "../otlp/testing/flat";
import { encode, request } from "../otlp/testing/requests";
import { packBatch, unpackBatch } from "./block";

const ALLOWED = { ...ADMIT_ALL, to: 4e12 };

test("a batch comes out of its bytes as it went in, whatever its points", () => {
  fc.assert(
    fc.property(request, (message) => {
      const batch = decodeMetrics(encode(message), new Dictionary(), ALLOWED);
      const again = unpackBatch(packBatch(batch), new Dictionary());
      expect(again.points).toBe(batch.points);
      expect(again.exemplars).toHaveLength(batch.exemplars.length);
      expect(flat(again)).toEqual(flat(batch));
    }),
    { numRuns: 300 },
  );
});

test("points later than a moment are taken out, and none is lost", () => {
  fc.assert(
    fc.property(request, fc.nat({ max: 2 ** 31 }), (message, half) => {
      const moment = half * 700;
      const batch = decodeMetrics(encode(message), new Dictionary(), ALLOWED);
      const all = flat(batch);
      const later = batch.takeLater(moment);
      batch.eachTime((_, time) => expect(time).toBeLessThanOrEqual(moment));
      later.eachTime((_, time) => expect(time).toBeGreaterThanOrEqual(moment));
      batch.append(later);
      expect(flat(batch)).toEqual(all);
    }),
    { numRuns: 200 },
  );
});
