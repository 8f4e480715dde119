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
    const covered = daysOf(hours);
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

function daysOf(strips: readonly StripSpan[]): Set<number> {
  const days = new Set<number>();
  for (const { from, to } of strips) for (let day = Math.floor(from / DAY); day * DAY <= to; day++) days.add(day);
  return days;
}

/** The strips to read. */
export interface Chosen<T> {
  strips: {
    strip: T;
    /** The days (their numbers) whose points count; null where all do. */
    days: ReadonlySet<number> | null;
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
  const finerDays = daysOf([...raw, ...minutes]);
  const spanOf = ({ from }: T) => Math.floor(from / SPAN);
  const rawSpans = new Set(raw.map(spanOf));
  const chosen: Chosen<T> = { strips: [], coarse: false };
  const hourDays = new Set([...daysOf(hours)].filter((day) => choice.hoursWill(day) || !finerDays.has(day)));
  const byMinutes = (span: number) => choice.minutesWill(span) || !rawSpans.has(span);
  const minuteSpans = new Set(minutes.map(spanOf).filter(byMinutes));
  for (const strip of hours) {
    const days = [...daysOf([strip])];
    const own = days.filter((day) => hourDays.has(day));
    if (own.length === 0) continue;
    chosen.strips.push({ strip, days: own.length === days.length ? null : new Set(own) });
    chosen.coarse ||= own.some((day) => !choice.hoursWill(day));
  }
  for (const strip of [...minutes, ...raw]) {
    if (hourDays.has(Math.floor(strip.from / DAY))) continue;
    const span = spanOf(strip);
    const asMinutes = minuteSpans.has(span);
    if (strip.resolution === 60 ? !asMinutes : asMinutes && strip.level === 3) continue;
    chosen.strips.push({ strip, days: null });
    if (strip.resolution === 60) chosen.coarse ||= !choice.minutesWill(span);
  }
  return chosen;
}
