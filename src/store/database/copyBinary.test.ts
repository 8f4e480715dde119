import fc from "fast-check";
import { decodeCopy, encodeCopy, type Field } from "./copyBinary";

test("rows come back as they were encoded", () => {
  const row = fc.tuple(
    fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 }),
    fc.maxSafeInteger(),
    fc.uint8Array({ maxLength: 50 }),
  );
  fc.assert(
    fc.property(fc.array(row), (rows) => {
      const encoded = encodeCopy(
        rows.map(([a, b, c]): Field[] => [
          { type: "int4", value: a },
          { type: "int8", value: b },
          { type: "bytea", value: c },
        ]),
      );
      const decoded = decodeCopy(encoded).map(([a, b, c]) => [a.readInt32BE(0), Number(b.readBigInt64BE(0)), [...c]]);
      expect(decoded).toEqual(rows.map(([a, b, c]) => [a, b, [...c]]));
    }),
  );
});

test("something else is refused", () => {
  expect(() => decodeCopy(Buffer.from("something else entirely"))).toThrow("COPY");
});
