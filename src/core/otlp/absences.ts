import { type Attributes, bucketColumns, columnCount } from "../metric/model";
import type { Batch } from "./batch/batch";
import type { Group } from "./batch/group";
import type { Dictionary, KnownMetric } from "./dictionary";

/**
 * What reports say by leaving a series out.
 *
 * Most libraries give every series of an instrument the start of the instrument, or of the process, and report it only once
 * something was counted: the first error of a process that runs since a week says "1, since a week ago". Its one came after
 * the report before, in which it was not. So a series that is reported for the first time stood at nothing when its process
 * last reported the same metric, and a point that says so goes along with its first.
 *
 * That a report was whole cannot be seen, and what is wrongly taken for new would count all its life in one moment. So
 * the process must have a name of its own and have reported the metric twice without the series, with the same start; it must
 * tell all again that it told last, of one moment, as reports do that come whole; and the store must never have heard of the
 * series (see {@link Batch.pointSets}), or it was heard here of an earlier start: what a process that began anew has not told
 * yet stands at nothing again. Still something on the way may have kept the series back until now: what tells far more than
 * the others of its metric count in that time has counted for longer.
 */

/** A new series may have counted so many times as much as all others did on the average, and so much more. */
const MOST_TIMES = 50;
const MOST_MORE = 100;

/** A moment in whole ms, and ns beyond them. */
interface Moment {
  ms: number;
  ns: number;
}

/** What a process told of a metric last. */
interface Report {
  start: Moment;
  last: Moment;
  /** The first one of the same start. */
  first: Moment;
  /** How many series it told of; NaN where its points were not of one moment, as those of a whole report are. */
  rows: number;
}

/** What a batch says of a metric by one resource. */
interface Reported {
  resource: Attributes;
  metric: KnownMetric;
  /** The latest point. */
  start: Moment;
  last: Moment;
  /** Where its points are. */
  groups: Set<Group>;
  /** Whether all points are of one moment. */
  atOnce: boolean;
  /** How many series of it were reported before, and those that were not. */
  known: number;
  fresh: Place[];
}

/** A row of a group. */
interface Place {
  group: Group;
  row: number;
}

/** What a report takes in a dictionary, bytes. */
const REPORT_BYTES = 200;
const BY_ITSELF = "service.instance.id";

function isAfter(a: Moment, b: Moment): boolean {
  return a.ms > b.ms || (a.ms === b.ms && a.ns > b.ns);
}

function isEqual(a: Moment, b: Moment): boolean {
  return a.ms === b.ms && a.ns === b.ns;
}

/** What a running total of a row adds up to. */
function totalAt({ group: { layout, values }, row }: Place): number {
  const from = row * columnCount(layout);
  if (layout.kind === "number") return values.data[from];
  return values.data.subarray(from, from + bucketColumns(layout)).reduce((sum, one) => sum + one, 0);
}

function msBetween(a: Moment, b: Moment): number {
  return b.ms - a.ms + (b.ns - a.ns) / 1e6;
}

function momentAt({ heads: { data } }: Group, row: number, column: 0 | 2): Moment {
  return { ms: data[row * 5 + column], ns: data[row * 5 + column + 1] };
}

/** What one process that receives remembers of reports, as long as its dictionary remembers their series. */
export class Absences {
  private readonly reports = new WeakMap<Attributes, Map<KnownMetric, Report>>();

  constructor(private readonly dictionary: Dictionary) {}

  /**
   * Adds to a batch, as it was sent, where series that it reports for the first time stood at nothing.
   *
   * @returns to be called once the batch is durable: what was not taken will be sent again, and is new then
   */
  fill(batch: Batch): () => void {
    const found = [...batch.totals()].flatMap(({ metric, groups }) => reportedOf(metric, groups));
    const fresh = found.flatMap((one) =>
      one.fresh.map(({ group, row }) => ({ series: group.series[row], start: momentAt(group, row, 2) })),
    );
    for (const one of found) if (one.known > 0 && one.fresh.length > 0) this.add(batch, one);
    return () => {
      for (const { series, start } of fresh) {
        series.lifeMs = start.ms;
        series.lifeNs = start.ns;
      }
      for (const one of found) this.note(one);
    };
  }

  private add(batch: Batch, reported: Reported): void {
    const { resource, metric, atOnce, known, fresh, last: now } = reported;
    const report = this.reports.get(resource)?.get(metric);
    if (!report || !isAfter(report.last, report.first)) return;
    // A whole report tells all again that the one before told, of one moment.
    if (!atOnce || !(known >= report.rows) || resource[BY_ITSELF] === undefined) return;
    const { last } = report;
    const all = totalOfKnown(reported);
    const life = msBetween(report.start.ms > 0 ? report.start : report.first, now);
    const most = MOST_MORE + MOST_TIMES * all * (msBetween(last, now) / life);
    for (const place of fresh) {
      const { group, row } = place;
      if (!(totalAt(place) <= most)) continue;
      const start = momentAt(group, row, 2);
      if (isEqual(start, report.start) && isAfter(last, start) && isAfter(now, last))
        batch.addAbsence(group, row, last.ms, last.ns, group.series[row].lifeMs > 0);
    }
  }

  private note({ resource, metric, start, last, atOnce, known, fresh }: Reported): void {
    let own = this.reports.get(resource);
    if (!own) {
      own = new Map();
      this.reports.set(resource, own);
    }
    const before = own.get(metric);
    if (!before) this.dictionary.bytes += REPORT_BYTES;
    const goes = before !== undefined && isEqual(before.start, start);
    if (goes && !isAfter(last, before.last)) return;
    const rows = atOnce ? known + fresh.length : Number.NaN;
    own.set(metric, { start, last, first: goes ? before.first : last, rows });
  }
}

/** Whether the series of a row was reported before, with the same start. */
function isKnown({ series, heads: { data } }: Group, row: number): boolean {
  const { lifeMs, lifeNs } = series[row];
  return lifeMs === data[row * 5 + 2] && lifeNs === data[row * 5 + 3];
}

/** What the series that were reported before add up to. */
function totalOfKnown({ resource, groups }: Reported): number {
  let total = 0;
  for (const group of groups)
    group.series.forEach(({ identity }, row) => {
      if (identity.resource === resource && isKnown(group, row)) total += totalAt({ group, row });
    });
  return total;
}

/** What the groups of one metric say, by resource. */
function reportedOf(metric: KnownMetric, groups: Iterable<Group>): Reported[] {
  const all = new Map<Attributes, Reported>();
  for (const group of groups) {
    const { series } = group;
    let own: Reported | undefined;
    for (let row = 0; row < series.length; row++) {
      const { identity } = series[row];
      if (own?.resource !== identity.resource) {
        own = reportedBy(identity.resource, metric, group, row, all);
        own.groups.add(group);
      }
      if (isKnown(group, row)) own.known++;
      else own.fresh.push({ group, row });
      const at = row * 5;
      const { data } = group.heads;
      if (data[at] !== own.last.ms || data[at + 1] !== own.last.ns) own.atOnce = false;
      if (data[at] > own.last.ms || (data[at] === own.last.ms && data[at + 1] > own.last.ns)) {
        own.last = momentAt(group, row, 0);
        own.start = momentAt(group, row, 2);
      }
    }
  }
  return [...all.values()];
}

function reportedBy(
  resource: Attributes,
  metric: KnownMetric,
  group: Group,
  row: number,
  all: Map<Attributes, Reported>,
): Reported {
  const known = all.get(resource);
  if (known) return known;
  const made: Reported = {
    resource,
    metric,
    start: momentAt(group, row, 2),
    last: momentAt(group, row, 0),
    groups: new Set(),
    atOnce: true,
    known: 0,
    fresh: [],
  };
  all.set(resource, made);
  return made;
}
