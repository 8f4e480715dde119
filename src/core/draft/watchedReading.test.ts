import { Batch } from "../otlp/batch/batch";
import { Dictionary } from "../otlp/dictionary";
import { addAmount } from "../pipeline/amount";
import { heldSeries } from "../reading/offline";
import { readingDryRun } from "./watchedReading";

const T0 = 1_764_000_000_000;

test("a reading that asks for too much says so, and harms no other", () => {
  const dictionary = new Dictionary();
  const identity = { name: "took", kind: "histogram", unit: "s", temporality: "delta", monotonic: false } as const;
  const batch = new Batch();
  // Thirty-one histograms of which no two have the same bounds.
  for (let i = 0; i < 31; i++) {
    const series = dictionary.series(dictionary.metric(identity, ""), {
      resource: {},
      scope: { name: "", version: "" },
      attributes: { own: i },
    });
    const bounds = Array.from({ length: 200 }, (_, b) => b + 1 + i / 100);
    const counts = Array.from({ length: 201 }, () => 1);
    const amount = { kind: "explicit", bounds, counts, sum: null, min: null, max: null } as const;
    addAmount(batch, series, { start: T0 + 1, time: T0 + 500_000, amount: { ...amount, counts: [...counts] } });
  }
  const held = heldSeries([batch]);
  const asked = { from: T0, to: T0 + 10_000_000, every: 1000, zone: "UTC", picks: {} };
  const dryRun = (text: string) => readingDryRun({ text, at: "your own" }, held, held, asked);
  expect(dryRun("p95 of took")).toMatchObject({ at: "your own", live: null, draft: null, pairs: [] });
  expect(dryRun("p95 of took").problem).toMatch(/step|series|bucket/);
  expect(dryRun("count of took")).toMatchObject({ problem: null, draft: { unit: "1" } });
});
