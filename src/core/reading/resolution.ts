import { HOURS_SPAN as DAY, MINUTES_SPAN as SPAN } from "../rollup/cells";
import { HOUR, MINUTE } from "../window/lengths";

/**
 * The choice of resolution: which stored strips answer a reading with the numbers that all points would give.
 *
 * Points that were rolled up to cells say the same as all points wherever no bound of the reading lies inside a cell.
 * So a day is read from its hours where all bounds in it are full hours, two hours are read from their minutes where
 * all bounds in them are full minutes, and from the points themselves elsewhere. Where points are still to be merged,
 * they and all around them are read as they arrived, so the newest are always there.
 */

export type Resolution = 0 | 60 | 3600;

/** What the choice needs to know of a strip. Times in Unix ms, both included. */
export interface StripSpan {
  resolution: Resolution;
  /** Below 3: it holds points that are not rolled up yet. */
  level: number;
  from: number;
  to: number;
}

/** Times that lie between the bounds of cells of a width, as the spans that hold them. */
function splitSpans(bounds: Float64Array, width: number, span: number): Set<number> {
  const found = new Set<number>();
  for (const bound of bounds) if (bound % width !== 0) found.add(Math.floor(bound / span));
  return found;
}

/** What bounds and points that are not rolled up yet rule out. */
export class Choice {
  private readonly splitDays: Set<number>;
  private readonly splitHours: Set<number>;
  private readonly looseSpans = new Set<number>();
  private readonly looseDays = new Set<number>();

  /**
   * @param bounds every moment at which the reading is cut, ascending
   * @param loose the strips below level 3 of resolution 0
   */
  constructor(bounds: Float64Array, loose: readonly StripSpan[]) {
    this.splitDays = splitSpans(bounds, HOUR, DAY);
    this.splitHours = splitSpans(bounds, MINUTE, SPAN);
    for (const { from, to } of loose) {
      for (let span = Math.floor(from / SPAN); span * SPAN <= to; span++) this.looseSpans.add(span);
      for (let day = Math.floor(from / DAY); day * DAY <= to; day++) this.looseDays.add(day);
    }
  }

  /** Whether a day (its number) may be read from its hours. */
  hoursWill(day: number): boolean {
    return !this.splitDays.has(day) && !this.looseDays.has(day);
  }

  /** Whether two hours (their number) may be read from their minutes. */
  minutesWill(span: number): boolean {
    return !this.splitHours.has(span) && !this.looseSpans.has(span);
  }

  /** Days of [from, to] that hours may not answer, as spans of time that follow each other. */
  daysWithoutHours(from: number, to: number, hours: readonly StripSpan[]): { from: number; to: number }[] {
    const covered = touched(hours, DAY);
    const result: { from: number; to: number }[] = [];
    for (let day = Math.floor(from / DAY); day * DAY <= to; day++) {
      if (this.hoursWill(day) && covered.has(day)) continue;
      const before = result[result.length - 1];
      if (before && before.to + 1 === day * DAY) before.to = (day + 1) * DAY - 1;
      else result.push({ from: day * DAY, to: (day + 1) * DAY - 1 });
    }
    return result;
  }
}

/** The numbers of the spans of a width that strips touch. */
function touched(strips: readonly StripSpan[], width: number): Set<number> {
  const found = new Set<number>();
  for (const { from, to } of strips)
    for (let number = Math.floor(from / width); number * width <= to; number++) found.add(number);
  return found;
}

/** A part of a strip: its points in some spans of a width, by the spans' numbers. */
export interface Part {
  width: number;
  spans: ReadonlySet<number>;
}

/** The strips to read. */
export interface Chosen<T> {
  strips: {
    strip: T;
    /** Which of its points count; null where all do. */
    part: Part | null;
  }[];
  /** Whether a bound lies inside a cell of what is read, because nothing finer is kept. */
  coarse: boolean;
}

/**
 * Chooses among the strips of one metric that touch a span of time.
 *
 * @param strips of all resolutions, those of resolutions that need not be looked at left out
 */
export function chooseStrips<T extends StripSpan>(strips: readonly T[], bounds: Float64Array): Chosen<T> {
  const of = (resolution: Resolution) => strips.filter((strip) => strip.resolution === resolution);
  const [raw, minutes, hours] = [of(0), of(60), of(3600)];
  const loose = raw.filter(({ level }) => level < 3);
  const choice = new Choice(bounds, loose);
  const finerDays = touched([...raw, ...minutes], DAY);
  const spanOf = ({ from }: T) => Math.floor(from / SPAN);
  const rawSpans = new Set(raw.map(spanOf));
  const chosen: Chosen<T> = { strips: [], coarse: false };
  const hourDays = new Set([...touched(hours, DAY)].filter((day) => choice.hoursWill(day) || !finerDays.has(day)));
  const byMinutes = (span: number) => choice.minutesWill(span) || !rawSpans.has(span);
  const minuteSpans = new Set([...touched(minutes, SPAN)].filter(byMinutes));
  const choose = (strip: T, width: number, wanted: ReadonlySet<number>, exact: (span: number) => boolean) => {
    const all = [...touched([strip], width)];
    const own = all.filter((span) => wanted.has(span));
    if (own.length === 0) return;
    chosen.strips.push({ strip, part: own.length === all.length ? null : { width, spans: new Set(own) } });
    chosen.coarse ||= own.some((span) => !exact(span));
  };
  for (const strip of hours) choose(strip, DAY, hourDays, (day) => choice.hoursWill(day));
  const byHours = ({ from }: T) => hourDays.has(Math.floor(from / DAY));
  for (const strip of minutes)
    if (!byHours(strip)) choose(strip, SPAN, minuteSpans, (span) => choice.minutesWill(span));
  for (const strip of raw)
    if (!byHours(strip) && !(minuteSpans.has(spanOf(strip)) && strip.level === 3))
      chosen.strips.push({ strip, part: null });
  return chosen;
}
