import type { Drift, DriftShift } from "@/core/api/drift";
import { prepareDistributions } from "@/core/compare/distributions";
import { memory } from "@/core/drift/changePoints";
import { type Leak, leakIn } from "@/core/drift/leak";
import { rhythmOf } from "@/core/drift/rhythm";
import { median } from "@/core/drift/robust";
import { shiftsOf } from "@/core/drift/shifts";
import { slopeOf } from "@/core/drift/slope";
import { metricText, serviceTests } from "@/core/reading/language/quote";
import { causeText } from "@/core/release/report";
import type { LadderSetting } from "@/core/release/setting";
import { failedCondition } from "@/core/service/callMetrics";
import { DAY, HOUR } from "@/core/window/lengths";
import { ladderSettingOf } from "@/store/releases/ladderSettings";
import { type Hours, readByHour } from "../byHour";
import { loaderOf, type Surroundings } from "../surroundings";
import { unlessUnreadable } from "../unreadable";
import { callMetrics, metricNames, releasesSeen } from "./callsOf";
import { answerComparison } from "./comparison";
import { readWith } from "./reading";

/** What changed of a service in the last weeks without a release. */
export interface DriftJob {
  type: "drift";
  service: string;
  environment: string;
  now: number;
}

/** What is looked at, and the least of it that says something, ms. */
const WEEKS = 28 * DAY;
const LEAST = 5 * DAY;
/** Hours that may be missing, as a part of all. */
const MAY_MISS = 0.3;
/** A release that begins so near to a change is what changed, ms. */
const NEAR = 2 * HOUR;
/** A level that stays is looked at for a slope of so long. */
const SLOPE_OVER = 7 * DAY;
/** A change of a rate, and a slope in a week, that are not worth a word: people come and go. */
const LEAST_RATE = 0.3;
/** How often the tolerance a change has to be: by the hour more wavers than between two sides. */
const TIMES = 1.5;
/** What is compared to tell where a change comes from, ms. */
const LOOKED_AT = 6 * HOUR;
const MEMORY = ["process.memory.usage", "process_resident_memory_bytes", "jvm.memory.used"];

type Measure = DriftShift["measure"];

interface Series {
  measure: Measure;
  times: Float64Array;
  /** Logarithms, but of shares as they are. */
  values: Float64Array;
  least: number;
}

const isLogarithmic = (measure: Measure) => measure !== "errors";
const toldChange = (measure: Measure, by: number) => (isLogarithmic(measure) ? Math.exp(by) - 1 : by);

/** Values by the hour, with gaps filled by what was before; null where too much is missing. */
function evenly({ times, values }: Hours, measure: Measure, least: number): Series | null {
  const known = (value: number | null) => value !== null && (!isLogarithmic(measure) || value > 0);
  const first = values.findIndex(known);
  const used = values.slice(Math.max(0, first));
  const missing = used.filter((value) => !known(value)).length;
  if (first < 0 || used.length < LEAST / HOUR || missing > MAY_MISS * used.length) return null;
  let before = 0;
  const filled = used.map((value) => {
    if (known(value)) before = isLogarithmic(measure) ? Math.log(value!) : value!;
    return before;
  });
  return {
    measure,
    times: Float64Array.from(times.slice(first)),
    values: Float64Array.from(filled),
    least,
  };
}

async function seriesOf(
  around: Surroundings,
  metric: string,
  failed: string,
  tests: string,
  { tolerances }: LadderSetting,
  span: { from: number; to: number },
): Promise<Series[]> {
  const name = metricText(metric);
  const asked: [Measure, string, number][] = [
    ["p95", `p95 of ${name} where ${tests}`, TIMES * Math.log(1 + tolerances.latency)],
    ["errors", `share of ${name} that ${failed} where ${tests}`, TIMES * tolerances.failures],
    ["throughput", `rate of ${name} where ${tests}`, Math.log(1 + LEAST_RATE)],
  ];
  const found: Series[] = [];
  const all = await readByHour(
    around,
    asked.map(([, text]) => text),
    span,
  );
  asked.forEach(([measure, , least], i) => {
    const series = evenly(all[i], measure, least);
    if (series) found.push(series);
  });
  return found;
}

/** How fast the last level rises or falls, where it does beyond chance and tolerance. */
function slopeIn({ measure, times, values, least }: Series, since: number): Drift["slopes"] {
  const from = Math.max(
    0,
    times.findIndex((time) => time >= since),
  );
  const own = values.subarray(from);
  if (own.length < LEAST / HOUR) return [];
  const rhythm = rhythmOf(times, values).subarray(from);
  const left = own.map((value, i) => value - rhythm[i]);
  const kept = memory(left);
  const slope = slopeOf(times.subarray(from), left, (1 + kept) / (1 - kept));
  if (!slope || slope.low * slope.high <= 0 || Math.abs(slope.value * SLOPE_OVER) < 2 * least) return [];
  const week = (by: number) => toldChange(measure, by * 7 * DAY);
  return [{ measure, week: week(slope.value), low: week(slope.low), high: week(slope.high), since: times[from] }];
}

async function leakOf(
  around: Surroundings,
  known: ReadonlySet<string>,
  tests: string,
  to: number,
): Promise<Drift["leak"]> {
  const metric = MEMORY.find((name) => known.has(name));
  if (!metric) return null;
  const text = `mean of ${metricText(metric)} where ${tests} by service.instance.id`;
  const asked = { text, from: to - SLOPE_OVER, to, every: HOUR, zone: "UTC", picks: {} };
  const result = await unlessUnreadable(readWith(loaderOf(around), asked));
  const leaks = (result?.series ?? []).flatMap(({ values }): Leak[] => {
    const places = [...values.keys()].filter((i) => values[i] !== null);
    const leak = leakIn(
      places.map((i) => result!.times[i]),
      places.map((i) => values[i]!),
    );
    return leak ? [leak] : [];
  });
  if (leaks.length === 0 || !result) return null;
  return {
    metric,
    unit: result.unit,
    instances: leaks.length,
    hour: median(leaks.map(({ slope }) => slope)) * HOUR,
    every: median(leaks.map(({ every }) => every)),
    gained: median(leaks.map(({ gained }) => gained)),
  };
}

export async function answerDrift(around: Surroundings, { service, environment, now }: DriftJob): Promise<Drift> {
  const { client } = around;
  const to = Math.floor(now / HOUR) * HOUR;
  const from = to - WEEKS;
  const tests = serviceTests(service, environment);
  await prepareDistributions();
  const leak = await leakOf(around, await metricNames(client, service, environment), tests, to);
  const setting = await ladderSettingOf(client, service, environment);
  const found = await callMetrics(client, service, environment);
  const metric = found.find(({ name }) => name === setting.metric) ?? found[0];
  if (!metric) return { from, to, shifts: [], slopes: [], leak };
  const failed = setting.failed || failedCondition(metric.name);
  const all = await seriesOf(around, metric.name, failed, tests, setting, { from, to });
  const heard = (await releasesSeen(client, service, environment, { from, to })).filter(
    ({ release }) => release !== "",
  );
  const shifts: DriftShift[] = [];
  const slopes: Drift["slopes"] = [];
  for (const series of all) {
    around.stillWanted();
    const { measure, times, values, least } = series;
    const changes = shiftsOf(times, values, least);
    for (const { at, before, after } of changes) {
      const time = times[at];
      // The hour in which it began, and the one before, which it may have begun in.
      const near = heard.filter(({ firstAt, lastAt }) => [firstAt, lastAt].some((one) => Math.abs(one - time) <= NEAR));
      const serving = heard.filter(({ firstAt, lastAt }) => firstAt <= time && lastAt >= time);
      shifts.push({
        measure,
        at: time,
        change: toldChange(measure, after - before),
        release: near.at(0)?.release ?? null,
        serving: serving.at(-1)?.release ?? null,
        cause: null,
      });
    }
    const last = changes.at(-1);
    slopes.push(...slopeIn(series, Math.max(to - SLOPE_OVER, last ? times[last.at] : 0)));
  }
  for (const shift of shifts) {
    if (shift.release !== null || shift.serving === null || shift.measure === "throughput") continue;
    shift.cause = await unlessUnreadable(causeOf(around, { service, environment, release: shift.serving }, shift));
  }
  return { from, to, shifts: shifts.sort((a, b) => a.at - b.at), slopes, leak };
}

/** Where a change without a release comes from: the hours after it against the same ones of a day before. */
async function causeOf(
  around: Surroundings,
  place: { service: string; environment: string; release: string },
  { at, measure }: DriftShift,
): Promise<string | null> {
  const span = { from: at + HOUR, to: at + HOUR + LOOKED_AT };
  const usual = {
    againstService: "",
    againstEnvironment: null,
    metric: "",
    zone: "UTC",
    hold: [],
    by: "",
    brief: false,
  };
  const job = { type: "comparison" as const, ...place, ...usual, against: place.release, ...span };
  const { slow, failing } = await answerComparison(around, job);
  const cause = (measure === "errors" ? failing : slow)?.causes.at(0);
  return cause ? causeText(cause) : null;
}
