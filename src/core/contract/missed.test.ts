import { MINUTE } from "../window/lengths";
import { wouldHaveCome } from "./missed";

test("what counts seldom things is awaited for as long as thirty of them would have taken, all else at once", () => {
  const errors = { kind: "sum", monotonic: true, temporality: "cumulative", level: 0.05 } as const;
  expect(wouldHaveCome(errors, 9 * MINUTE)).toBe(false);
  expect(wouldHaveCome(errors, 10 * MINUTE)).toBe(true);
  expect(wouldHaveCome({ ...errors, kind: "histogram", monotonic: false }, 9 * MINUTE)).toBe(false);
  expect(wouldHaveCome({ ...errors, level: 0 }, 1e9)).toBe(false);
  expect(wouldHaveCome({ ...errors, level: null }, 9 * MINUTE)).toBe(false);
  expect(wouldHaveCome({ ...errors, level: null }, 10 * MINUTE)).toBe(true);
  expect(wouldHaveCome({ ...errors, kind: "gauge", monotonic: false, temporality: "none" }, 0)).toBe(true);
  expect(wouldHaveCome({ ...errors, monotonic: false }, 0)).toBe(true);
  expect(wouldHaveCome({ ...errors, monotonic: false, temporality: "delta" }, 0)).toBe(false);
});
