import fc from "fast-check";
import { ByteReader, ByteWriter, padded, StripError } from "./bytes";
import { readColumn, writeColumn } from "./column";
import { LARGEST, readInts, writeInts } from "./ints";

function roundTrip(values: Float64Array): Float64Array {
  const out = new ByteWriter(16);
  writeColumn(out, values, values.length);
  const read = new Float64Array(values.length);
  const input = new ByteReader(padded(out.finish()));
  readColumn(input, read, values.length);
  expect(input.at).toBe(input.end);
  return read;
}

function expectSame(read: Float64Array, values: Float64Array): void {
  const wrong = values.findIndex((value, i) => !Object.is(value, read[i]));
  expect(wrong < 0 ? null : { wrong, wanted: values[wrong], read: read[wrong] }).toBeNull();
}

const sizes = fc.constantFrom(1, 2, 15, 16, 31, 32, 33, 127, 128, 129, 130, 257, 400);
const columnOf = (value: fc.Arbitrary<number>) =>
  sizes.chain((size) => fc.array(value, { minLength: size, maxLength: size }));

describe("a column of doubles comes back as it was, by Object.is", () => {
  const kinds: Record<string, fc.Arbitrary<number>> = {
    "any double": fc.double(),
    "small integers": fc.integer({ min: -3, max: 3 }),
    "integers up to the largest packed": fc.integer({ min: -LARGEST, max: LARGEST }),
    "integers beyond 2^53": fc.bigInt({ min: 2n ** 53n, max: 2n ** 70n }).map(Number),
    "two decimals": fc.integer({ min: -1e6, max: 1e6 }).map((value) => value / 100),
    "the awkward ones": fc.constantFrom(
      Number.NaN,
      0,
      -0,
      Number.POSITIVE_INFINITY,
      Number.NEGATIVE_INFINITY,
      Number.MIN_VALUE,
      Number.MAX_VALUE,
      2 ** 53,
      0.1 + 0.2,
      1e-7,
    ),
    "mostly calm with outliers": fc.oneof(
      { arbitrary: fc.integer({ min: 100, max: 107 }), weight: 20 },
      { arbitrary: fc.integer({ min: -1e14, max: 1e14 }), weight: 1 },
    ),
  };
  for (const [name, value] of Object.entries(kinds)) {
    test(name, () => {
      fc.assert(
        fc.property(columnOf(value), (values) =>
          expectSame(roundTrip(Float64Array.from(values)), Float64Array.from(values)),
        ),
        { numRuns: 150 },
      );
    });
  }

  test("rising counters with resets, at every block boundary", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 700 }),
        fc.integer({ min: 1, max: 1e9 }),
        fc.infiniteStream(fc.nat(50)),
        (size, start, steps) => {
          let level = start;
          const values = Float64Array.from({ length: size }, (_, i) => {
            level = i % 97 === 96 ? 0 : level + steps.next().value!;
            return level;
          });
          expectSame(roundTrip(values), values);
        },
      ),
      { numRuns: 60 },
    );
  });

  test("every bit width of packed residuals", () => {
    for (let width = 0; width <= 50; width++) {
      const top = 2 ** width - 1;
      const values = Float64Array.from({ length: 300 }, (_, i) =>
        i % 3 === 0 ? top : i % 3 === 1 ? 0 : Math.floor(top / 3),
      );
      const out = new ByteWriter();
      writeInts(out, values, values.length);
      const read = new Float64Array(300);
      readInts(new ByteReader(padded(out.finish())), read, 300);
      expectSame(read, values);
    }
  });
});

test("what the codec promises about size: a constant takes a few bytes, a steady counter under two a value", () => {
  const size = (values: Float64Array) => {
    const out = new ByteWriter();
    writeColumn(out, values, values.length);
    return out.length;
  };
  expect(size(new Float64Array(1000).fill(5))).toBeLessThan(5);
  expect(size(Float64Array.from({ length: 1000 }, (_, i) => 1e12 + i * 15_000))).toBeLessThan(60);
  expect(size(Float64Array.from({ length: 1000 }, (_, i) => i * 40 + ((i * 7919) % 31)))).toBeLessThan(2000);
});

test("damaged columns are refused with a StripError and never loop", () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 400 }), fc.nat(500), (bytes, count) => {
      const out = new Float64Array(count);
      try {
        readColumn(new ByteReader(padded(bytes)), out, count);
      } catch (error) {
        expect(error).toBeInstanceOf(StripError);
      }
    }),
    { numRuns: 3000 },
  );
});
