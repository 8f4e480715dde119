import fc from "fast-check";
import { pipelineSchema } from "./config";
import { folder } from "./fold";
import { shortHash } from "./hash";

test.each([
  [["numbers"], "/loans/81273/items/4", "/loans/{id}/items/{id}"],
  [["numbers"], "v2x7", "v2x7"],
  [["uuids", "numbers"], "job 6fa459ea-ee8a-3ca4-894e-db77e160355e of 7", "job {uuid} of {id}"],
  [["hex"], "commit 9fceb02d0ae598e95dc970b74767f19372d61af8 decade", "commit {hex} decade"],
  [["emails"], "mail to ottilie.brand@fern-anvil.example failed", "mail to {email} failed"],
  [["hosts"], "https://user:pw@couriers.example:8443/v1/parcels?id=7", "couriers.example"],
  [["paths", "numbers"], "https://couriers.example:8443/v1/parcels/7?full=1", "/v1/parcels/{id}"],
] as const)("%j: %s becomes %s", (folds, value, wanted) => {
  expect(folder({ folds: [...folds], own: [] })(value)).toBe(wanted);
});

test("own patterns come first, with what they found in groups", () => {
  const fold = folder({ folds: ["numbers"], own: [{ pattern: "shelf-([a-z])[0-9]+", to: "shelf-$1" }] });
  expect(fold("shelf-b17 of 3")).toBe("shelf-b of {id}");
});

test("folding again changes nothing, and never fails", () => {
  const fold = folder({ folds: ["numbers", "uuids", "hex", "emails"], own: [] });
  fc.assert(
    fc.property(fc.string(), (value) => {
      expect(fold(fold(value))).toBe(fold(value));
    }),
  );
});

test("a hash keeps apart what differs and says the same for the same", () => {
  fc.assert(
    fc.property(fc.string(), fc.string(), (a, b) => {
      expect(shortHash(a)).toMatch(/^[0-9a-f]{16}$/);
      expect(shortHash(a) === shortHash(b)).toBe(a === b);
    }),
  );
});

test.each([
  [{ id: "a", type: "drop", where: "metric is" }, /metrics\.0\.where/],
  [{ id: "a", type: "drop", where: 'metric matches "["' }, /where/],
  [{ id: "a", type: "fold", attribute: "x", own: [{ pattern: "(", to: "" }] }, /pattern/],
  [{ id: "a", type: "unit", to: "parsecs" }, /to/],
  [{ id: "A b", type: "keep" }, /id/],
  [{ id: "a", type: "remove", attributes: [] }, /attributes/],
])("%j is refused, saying where", (step, place) => {
  const parsed = pipelineSchema.safeParse({ metrics: [step] });
  expect(parsed.success ? "" : parsed.error.issues[0].path.join(".")).toMatch(place);
});

test("two steps may not have one id", () => {
  const step = { id: "a", type: "keep" };
  const parsed = pipelineSchema.safeParse({ metrics: [step, step] });
  expect(parsed.success ? "" : parsed.error.issues[0].message).toBe("something else is called a");
});
