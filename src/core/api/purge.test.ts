import fc from "fast-check";
import { purgeInWords, purgeRequest } from "./purge";

test("whatever is taken can be put in words, and what lies beyond all time is not taken", () => {
  const moment = fc.oneof(fc.integer({ min: -10, max: 10 }), fc.maxSafeInteger(), fc.constant(253_402_300_799_999));
  fc.assert(
    fc.property(fc.record({ metric: fc.string({ minLength: 1 }), from: moment, to: moment }), (request) => {
      const read = purgeRequest.safeParse(request);
      if (read.success) expect(purgeInWords(read.data)).toContain(request.metric);
      else expect(Math.min(request.from, request.to) < 0 || Math.max(request.from, request.to) > 2.5e14).toBe(true);
    }),
  );
  expect(purgeInWords({ metric: "loan.kept", attribute: { name: "depot", value: "Brindle" }, from: 0, to: 1000 })).toBe(
    "loan.kept where depot is Brindle from 1970-01-01T00:00:00.000Z to 1970-01-01T00:00:01.000Z",
  );
});
