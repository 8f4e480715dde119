import { FLAG } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import { Dictionary } from "../otlp/dictionary";
import { Page } from "./page";

const ORIGIN = 1_764_000_000_000;

function counted(dictionary: Dictionary, value: number, at: number, hue: string): Batch {
  const identity = { name: "rivet.set", kind: "sum", unit: "{rivet}", temporality: "delta", monotonic: true } as const;
  const series = dictionary.series(dictionary.metric(identity, "Rivets that were set"), {
    resource: { "service.name": "smithy" },
    scope: { name: "", version: "" },
    attributes: { hue },
  });
  const batch = new Batch();
  const head = { timeMs: ORIGIN + at, timeNs: 0, startMs: ORIGIN + at - 1, startNs: 0, flags: FLAG.integer };
  batch.number(series, head, value);
  return batch;
}

test("increments are running totals on the page, over a restart as well; who is silent goes", () => {
  const dictionary = new Dictionary();
  const first = new Page(dictionary, ORIGIN);
  first.take(counted(dictionary, 3, 1000, "red"));
  first.take(counted(dictionary, 4, 2000, "red"));
  first.take(counted(dictionary, 9, 2000, "blue"));
  const page = new Page(dictionary, 0, JSON.parse(JSON.stringify(first.save())), first.points());
  page.take(counted(dictionary, 5, 200_000, "red"));
  const text = page.text(ORIGIN + 200_000);
  expect(text).toMatch(/^# TYPE rivet_set counter$/m);
  expect(text).toMatch(/^rivet_set_total\{hue="red",service_name="smithy"\} 12 /m);
  expect(text).toMatch(/^rivet_set_total\{hue="blue",service_name="smithy"\} 9 /m);
  expect(text.endsWith("# EOF\n")).toBe(true);
  const later = page.text(ORIGIN + 400_000);
  expect(later).toContain('hue="red"');
  expect(later).not.toContain('hue="blue"');
});
