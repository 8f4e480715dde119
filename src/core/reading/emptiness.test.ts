import { type Attributes, emptyPointSet, FLAG, type MetricIdentity } from "../metric/model";
import { type Circumstances, whyEmpty } from "./emptiness";
import { parseReading } from "./language/parse";
import type { MeasureNode } from "./language/tree";

/** A table of what a person may meet with an empty chart, and what it says. */

const FROM = Date.UTC(2026, 0, 1, 10);
const TO = FROM + 3600_000;
const iso = (ms: number) => new Date(ms).toISOString();

const COUNTER: MetricIdentity = { name: "m", kind: "sum", unit: "", temporality: "cumulative", monotonic: true };
const GAUGE: MetricIdentity = { name: "m", kind: "gauge", unit: "", temporality: "none", monotonic: false };

function points(identity: MetricIdentity, times: readonly number[], { value = 1, flags = 0 } = {}) {
  const set = emptyPointSet({ kind: "number" }, times.length);
  set.timeMs.set(times);
  set.columns[0].fill(value);
  set.flags.fill(flags);
  return [{ identity, series: [{ attributes: {}, parts: [set] }], points: times.length }];
}

const KNOWN: Attributes[] = [
  { "service.name": "loans", depot: "Brindle", code: 200 },
  { "service.name": "lockers", depot: "Ostler Green", code: 500 },
];

function reason(text: string, more: Partial<Circumstances> = {}): string {
  const node = parseReading(text).expression as MeasureNode;
  return whyEmpty({
    node,
    picks: {},
    from: FROM,
    to: TO,
    stored: { first: FROM - 1000, last: TO + 1000 },
    known: KNOWN,
    lastMatched: null,
    metrics: [{ identity: COUNTER, series: [], points: 0 }],
    ...more,
  }).message;
}

test.each<[string, string, Partial<Circumstances>, string]>([
  [
    "nothing is stored any more",
    "rate of m",
    { stored: null },
    "m is known, but none of its points is stored any more",
  ],
  [
    "it fell silent before the window",
    "rate of m",
    { stored: { first: 5, last: FROM - 5 } },
    `nothing arrived for m in the window; its last point is from ${iso(FROM - 5)}`,
  ],
  [
    "it began after the window",
    "rate of m",
    { stored: { first: TO + 5, last: TO + 9 } },
    `nothing of m is stored of the window; its first point is from ${iso(TO + 5)}`,
  ],
  [
    "the window is shifted to where nothing is",
    "rate of m shifted 1w",
    { stored: { first: TO + 5, last: TO + 9 } },
    `nothing of m is stored of the window that the reading is shifted to; its first point is from ${iso(TO + 5)}`,
  ],
  [
    "a silence inside what is stored",
    "rate of m",
    { metrics: points(COUNTER, [FROM - 7, TO + 7]) },
    `nothing arrived for m in the window; the last before it is from ${iso(FROM - 7)}, the first after it from ${iso(TO + 7)}`,
  ],
  [
    "a value that never was",
    'rate of m where depot is "Brindel"',
    {},
    'no series of m passes the where tests: none of its series passes depot is "Brindel"; did you mean "Brindle"?',
  ],
  [
    "a value far from all that are",
    'rate of m where depot is "zzz"',
    {},
    'no series of m passes the where tests: none of its series passes depot is "zzz"; depot is "Brindle", "Ostler Green"',
  ],
  [
    "an attribute that none has",
    'rate of m where depto is "Brindle"',
    {},
    "no series of m passes the where tests: none of its series has an attribute depto; did you mean depot?",
  ],
  [
    "tests that are passed one by one, but not together",
    'rate of m where service is "loans" and code is 500',
    {},
    "no series of m passes the where tests: each test is passed by some series, but all of them by none",
  ],
  [
    "what is picked",
    "rate of m where depot is <depot>",
    { picks: { depot: ["Tolland Cross"] } },
    'no series of m passes the where tests: none of its series passes depot is <depot> with what is picked; depot is "Brindle", "Ostler Green"',
  ],
  [
    "series that pass and fell silent",
    'rate of m where service is "loans"',
    { lastMatched: FROM - 60_000 },
    `the series of m that pass the where tests did not report in this window; they last reported ${iso(FROM - 60_000)}`,
  ],
  [
    "first points only",
    "rate of m",
    { metrics: points(COUNTER, [FROM + 7]) },
    "what arrived of m in this window are first points of running totals: what they add shows with the next ones",
  ],
  [
    "points that say there is no value",
    "last of m",
    { metrics: points(GAUGE, [FROM + 7], { flags: FLAG.noRecordedValue }) },
    "1 points of m arrived in this window, and all of them say that there is no value, or one that is no number",
  ],
  [
    "values that are no numbers",
    "last of m",
    { metrics: points(GAUGE, [FROM + 7, FROM + 9], { value: Number.POSITIVE_INFINITY }) },
    "2 points of m arrived in this window, and all of them say that there is no value, or one that is no number",
  ],
])("%s", (_, text, more, message) => {
  expect(reason(text, more)).toBe(message);
});
