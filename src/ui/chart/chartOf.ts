import { inUnit } from "@/core/reading/convert";
import { type ReadingResult, type ReadingSeries, seriesKey } from "@/core/reading/result";
import type { Look } from "@/core/sheet/looks";
import type { Order } from "@/core/sheet/looks/definition";
import { nameOf } from "@/core/sheet/shown/names";
import { chosenSeries } from "@/core/sheet/shown/series";
import { amountIn, writerFor } from "@/core/sheet/shown/writer";
import { comparable, lenientUnit } from "@/core/unit/unit";
import { byAge, PLAIN, strokesOf } from "./colours";
import { type Axis, type Chart, type Drawn, MAX_COLOURED, MAX_LINES, reachOf, type Style } from "./drawn";
import { logTicks, valueTicks } from "./ticks";

/** Charts out of answers: which series are drawn, how they are called, against which axis. */

/** A reading that is drawn. */
export interface ChartReading {
  text: string;
  result: ReadingResult;
  /** The same of an earlier window, its times moved on to this one's. */
  earlier?: ReadingResult | null;
  names?: string;
  unit?: string;
  decimals?: number | null;
  /** Whether its series may be added up. */
  adds?: boolean;
}

export interface ChartOptions {
  style?: Style;
  order?: Order;
  top?: number | null;
  rest?: boolean;
  /** How many series there is room for. */
  most?: number;
  from?: string;
  to?: string;
  log?: boolean;
  /** Known releases, newest first: their lines are the strongest. */
  releases?: readonly string[];
  /** How an earlier window is called. */
  earlierWords?: string;
}

/** The settings of a way to look, as far as a chart over time has them. */
export function optionsOf(look: Look): ChartOptions {
  switch (look.as) {
    case "lines":
      return { ...look, style: "lines" };
    case "stacked":
      return { ...look, style: "stacked" };
    case "bars":
      return { ...look, style: "bars" };
    default:
      return {};
  }
}

/** The values of a series at other times: each step has the value of the step of its own that it lies in. */
function atTimes(series: ReadingSeries, own: readonly number[], times: readonly number[]): ReadingSeries {
  if (own === times || (own.length === times.length && own.every((time, i) => time === times[i]))) return series;
  let at = 0;
  const place = times.map((time) => {
    while (at < own.length && own[at] < time) at++;
    return at < own.length ? at : -1;
  });
  const moved = <T>(values: readonly (T | null)[]) => place.map((i) => (i < 0 ? null : values[i]));
  return {
    ...series,
    values: moved(series.values),
    ...(series.low && { low: moved(series.low) }),
    ...(series.high && { high: moved(series.high) }),
  };
}

/** The sides on which answers stand: the first measures what the left axis does, the next unit the right one; for a third there is none. */
function sidesOf(readings: readonly ChartReading[]): ("left" | "right" | null)[] {
  const units: { unit: ReturnType<typeof lenientUnit>; share: boolean }[] = [];
  return readings.map(({ result }) => {
    const own = { unit: lenientUnit(result.unit), share: result.share };
    let at = units.findIndex(({ unit, share }) => comparable(unit, own.unit) && share === own.share);
    if (at < 0) at = units.push(own) - 1;
    return at === 0 ? "left" : at === 1 ? "right" : null;
  });
}

function axisOf(
  chart: Pick<Chart, "times" | "style" | "drawn">,
  side: Drawn["side"],
  { result, unit = "", decimals = null }: ChartReading,
  { from = "", to = "", log = false }: ChartOptions,
): Axis {
  const [low, high] = reachOf(chart, side);
  const bottom = from === "" ? null : amountIn(from, result.unit);
  const top = to === "" ? null : amountIn(to, result.unit);
  const largest = Math.max(Math.abs(low), Math.abs(high), Math.abs(top ?? 0));
  const writer = writerFor(result, { unit, decimals }, largest);
  const { factor } = writer;
  if (log) {
    const values = chart.drawn.flatMap((one) =>
      one.side === side ? one.series.values.filter((value) => value !== null && value > 0) : [],
    ) as number[];
    const least = values.reduce((a, b) => Math.min(a, b), Number.POSITIVE_INFINITY);
    const first = bottom !== null && bottom > 0 ? bottom : Number.isFinite(least) ? least : 1;
    return { writer, log, ticks: logTicks(first * factor, (top ?? Math.max(high, first)) * factor) };
  }
  return { writer, log, ticks: valueTicks((bottom ?? low) * factor, (top ?? high) * factor, 4, bottom !== null) };
}

/**
 * A chart of answers over one window.
 *
 * @param readings at least one
 */
export function chartOf(readings: readonly ChartReading[], options: ChartOptions = {}): Chart {
  const { style = "lines", most = MAX_COLOURED, order = "as read", top = null, rest = false, releases = [] } = options;
  const sides = sidesOf(readings);
  const finest = readings.reduce((a, b) => (b.result.times.length > a.result.times.length ? b : a)).result;
  const { times } = finest;
  const each = top === null ? Math.max(2, Math.floor(most / readings.length)) : Math.min(top, MAX_LINES);
  const unitOf = (side: "left" | "right" | null) => readings[sides.indexOf(side)]?.result.unit ?? "";
  let more = 0;
  const found: { series: ReadingSeries; reading: ChartReading; place: number; rest: boolean }[] = [];
  const notes: string[] = [];
  readings.forEach((reading, place) => {
    if (sides[place] === null) {
      notes.push(`"${reading.text}" has a third unit; a plate has two axes`);
      return;
    }
    const many = reading.result.series.length > MAX_COLOURED;
    const inSide = inUnit(reading.result, unitOf(sides[place])) ?? reading.result;
    // Of very many, the largest are drawn; of releases, the newest.
    const plain = many && order === "as read" && top === null && !rest;
    const newest = plain && releases.length > 0 ? (byAge(inSide.series, releases)?.slice(0, each) ?? null) : null;
    const chosen = chosenSeries(
      newest ? { ...inSide, series: newest } : inSide,
      {
        order: many && order === "as read" && !newest ? "largest first" : order,
        top,
        rest: rest && reading.adds === true,
        names: reading.names ?? "",
      },
      each,
    );
    more += chosen.rest ? 0 : inSide.series.length - chosen.shown.length;
    for (const series of chosen.shown) found.push({ series, reading, place, rest: false });
    if (chosen.rest) found.push({ series: chosen.rest, reading, place, rest: true });
  });
  const strokes = strokesOf(
    found.map(({ series }) => series),
    releases,
  );
  const shorts = shortNames(readings);
  const drawn = found.map(({ series, reading, place, rest: isRest }, i): Drawn => {
    const side = sides[place] === "right" ? "right" : "left";
    const { result, unit = "", decimals = null } = reading;
    const whole = { unit: unitOf(side), share: result.share };
    const of = readings.length > 1 && Object.keys(series.labels).length === 0;
    return {
      series: atTimes(series, result.times, times),
      stroke: isRest ? PLAIN : strokes[i],
      key: `s${i}`,
      name: isRest ? "the rest" : nameOf(series, reading.names ?? "", of ? shorts[place] : "all"),
      side,
      write: (value) => writerFor(whole, { unit, decimals }, value),
      share: result.share,
      earlier: false,
    };
  });
  const under =
    style === "lines"
      ? drawn.flatMap((one, i) => earlierOf(one, found[i].reading, unitOf(one.side), times, options))
      : [];
  const base = { times, style, drawn: [...drawn, ...under] };
  const right = sides.indexOf("right");
  return {
    label: readings.map(({ result }) => result.reading).join("; "),
    from: finest.from,
    to: finest.to,
    every: finest.every,
    ...base,
    more,
    left: axisOf(base, "left", readings[0], options),
    right: right < 0 ? null : axisOf(base, "right", readings[right], options),
    unsettled: readings.some(({ result }) => result.settledTo !== null),
    notes,
  };
}

/** What tells readings without labels apart, in a few words: their aggregations where they ask one metric, else the ends of its name. */
function shortNames(readings: readonly ChartReading[]): string[] {
  const parts = readings.map(({ result }) => /^(.+?) of (\S+)/.exec(result.reading));
  const metrics = new Set(parts.map((part) => part?.[2]));
  return readings.map(({ text }, i) => {
    const part = parts[i];
    if (!part) return text;
    return metrics.size === 1 ? part[1] : part[2].split(".").slice(-2).join(".");
  });
}

/** The same series in the earlier window, laid under it. */
function earlierOf(
  one: Drawn,
  { earlier }: ChartReading,
  unit: string,
  times: readonly number[],
  { earlierWords = "earlier" }: ChartOptions,
): Drawn[] {
  const key = seriesKey(one.series);
  const found = earlier && inUnit(earlier, unit)?.series.find((other) => seriesKey(other) === key);
  if (!found) return [];
  const series = atTimes(found, earlier.times, times);
  const { settledTo: _, ...settled } = series;
  const stroke = { colour: one.stroke.colour, width: 1.2 };
  return [{ ...one, series: settled, stroke, key: `${one.key}e`, name: `${one.name}, ${earlierWords}`, earlier: true }];
}
