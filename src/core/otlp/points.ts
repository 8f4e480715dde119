import { FLAG, type Kind } from "../metric/model";
import { readKeyValue } from "./attributes";
import type { Exemplar } from "./batch/exemplar";
import type { PointHead } from "./batch/group";
import type { IncomingBuckets } from "./batch/histograms";
import type { KnownSeries, SeriesTable } from "./dictionary";
import { LIMITS } from "./limits";
import { Numbers } from "./numbers";
import { SeriesReader, type Span } from "./seriesReader";
import type { Instant } from "./wire";

/** Reads data points of every kind into a batch. */
export class PointReader extends SeriesReader {
  private readonly time: Instant = { ms: 0, ns: 0 };
  private readonly head: PointHead = { timeMs: 0, timeNs: 0, startMs: 0, startNs: 0, flags: 0 };
  private readonly bounds = new Numbers();
  private readonly counts = new Numbers();
  private readonly positive: IncomingBuckets = { offset: 0, counts: new Numbers(256) };
  private readonly negative: IncomingBuckets = { offset: 0, counts: new Numbers(256) };
  private readonly quantiles = new Numbers();
  private readonly sums = { count: 0, sum: 0, has: 0, flags: 0 };
  private readonly exemplarSpans: Span[] = [];

  protected point(kind: Kind, to: number, table: SeriesTable): void {
    const { head } = this;
    head.timeMs = head.timeNs = head.startMs = head.startNs = head.flags = 0;
    this.forgetAttributes();
    if (this.exemplarSpans.length > 0) this.exemplarSpans.length = 0;
    if (kind === "histogram") this.histogram(to, table);
    else if (kind === "exponential") this.exponentialHistogram(to, table);
    else if (kind === "summary") this.summaryPoint(to, table);
    else this.numberPoint(to, table);
    this.at = to;
  }

  /** Start and time, which every kind of point has under the same numbers; else an unknown field. */
  private common(tag: number, end: number): void {
    const { head, time } = this;
    if (tag === 25) {
      this.instant(time);
      head.timeMs = time.ms;
      head.timeNs = time.ns;
    } else if (tag === 17) {
      this.instant(time);
      head.startMs = time.ms;
      head.startNs = time.ns;
    } else this.skip(tag, end);
  }

  /** Count, sum and flags, which every kind of point with a count has under the same numbers; else what all have. */
  private counted(tag: number, end: number): void {
    const { sums } = this;
    if (tag === 33) sums.count = this.fixed64();
    else if (tag === 41) {
      sums.sum = this.double();
      sums.has |= FLAG.noSum;
    } else if (tag === 80) sums.flags = this.uint32();
    else this.common(tag, end);
  }

  /** Flags of the histogram point in hand, from what was present. */
  private histogramFlags(): number {
    const { flags, has } = this.sums;
    return (flags & FLAG.noRecordedValue) | (~has & (FLAG.noSum | FLAG.noMin | FLAG.noMax));
  }

  /** Begins a point with a count. */
  private uncounted(): typeof this.sums {
    const { sums } = this;
    sums.count = sums.sum = sums.has = sums.flags = 0;
    return sums;
  }

  private exemplar(end: number): void {
    const to = this.end(end);
    if (this.exemplarSpans.length < LIMITS.exemplarsPerPoint) this.exemplarSpans.push({ from: this.at, to });
    this.at = to;
  }

  private numberPoint(end: number, table: SeriesTable): void {
    let value = 0;
    let flags = 0;
    let given = false;
    while (this.at < end) {
      const from = this.at;
      const tag = this.uint32();
      switch (tag) {
        case 58:
          this.attribute(from, end);
          break;
        case 33:
          value = this.double();
          flags &= ~FLAG.integer;
          given = true;
          break;
        case 49:
          value = this.sfixed64();
          flags |= FLAG.integer;
          given = true;
          break;
        case 42:
          this.exemplar(end);
          break;
        case 64:
          if (this.uint32() & 1) flags |= FLAG.noRecordedValue;
          break;
        default:
          this.common(tag, end);
      }
    }
    if (!given && !(flags & FLAG.noRecordedValue))
      return this.batch.reject(table.metric.identity.name, "a point has no value");
    const series = this.seriesOf(table, end);
    if (!series) return;
    this.head.flags = flags;
    this.batch.number(series, this.head, value);
    this.keepExemplars(series);
  }

  private doubles(into: Numbers, tag: number, end: number): void {
    if ((tag & 7) === 1) {
      into.push(this.double());
      return;
    }
    const to = this.end(end);
    while (this.at < to) into.push(this.double());
    if (this.at !== to) this.fail("packed numbers do not fill their field");
  }

  private histogram(end: number, table: SeriesTable): void {
    const { bounds, counts } = this;
    bounds.size = counts.size = 0;
    const sums = this.uncounted();
    let min = 0;
    let max = 0;
    while (this.at < end) {
      const from = this.at;
      const tag = this.uint32();
      switch (tag) {
        case 74:
          this.attribute(from, end);
          break;
        case 49:
          counts.push(this.fixed64());
          break;
        case 50: {
          const to = this.end(end);
          while (this.at < to) counts.push(this.fixed64());
          if (this.at !== to) this.fail("packed numbers do not fill their field");
          break;
        }
        case 57:
        case 58:
          this.doubles(bounds, tag, end);
          break;
        case 66:
          this.exemplar(end);
          break;
        case 89:
          min = this.double();
          sums.has |= FLAG.noMin;
          break;
        case 97:
          max = this.double();
          sums.has |= FLAG.noMax;
          break;
        default:
          this.counted(tag, end);
      }
    }
    const series = this.seriesOf(table, end);
    if (!series) return;
    this.head.flags = this.histogramFlags();
    this.batch.explicit(series, this.head, { count: sums.count, sum: sums.sum, min, max }, bounds, counts);
    this.keepExemplars(series);
  }

  private buckets(into: IncomingBuckets, end: number): void {
    const to = this.end(end);
    while (this.at < to) {
      const tag = this.uint32();
      if (tag === 8) into.offset = this.sint32();
      else if (tag === 16) into.counts.push(this.uint64());
      else if (tag === 18) {
        const packed = this.end(to);
        while (this.at < packed) into.counts.push(this.uint64());
        if (this.at !== packed) this.fail("packed numbers do not fill their field");
      } else this.skip(tag, to);
    }
  }

  private exponentialHistogram(end: number, table: SeriesTable): void {
    const { positive, negative } = this;
    positive.offset = negative.offset = 0;
    positive.counts.size = negative.counts.size = 0;
    const point = { count: 0, sum: 0, min: 0, max: 0, scale: 0, zeroCount: 0, zeroThreshold: 0 };
    const sums = this.uncounted();
    while (this.at < end) {
      const from = this.at;
      const tag = this.uint32();
      switch (tag) {
        case 10:
          this.attribute(from, end);
          break;
        case 48:
          point.scale = this.sint32();
          break;
        case 57:
          point.zeroCount = this.fixed64();
          break;
        case 66:
          this.buckets(positive, end);
          break;
        case 74:
          this.buckets(negative, end);
          break;
        case 90:
          this.exemplar(end);
          break;
        case 97:
          point.min = this.double();
          sums.has |= FLAG.noMin;
          break;
        case 105:
          point.max = this.double();
          sums.has |= FLAG.noMax;
          break;
        case 113:
          point.zeroThreshold = this.double();
          break;
        default:
          this.counted(tag, end);
      }
    }
    const series = this.seriesOf(table, end);
    if (!series) return;
    point.count = sums.count;
    point.sum = sums.sum;
    this.head.flags = this.histogramFlags();
    this.batch.exponential(series, this.head, point, positive, negative);
    this.keepExemplars(series);
  }

  private summaryPoint(end: number, table: SeriesTable): void {
    const { quantiles, counts: values } = this;
    quantiles.size = values.size = 0;
    let flags = 0;
    const sums = this.uncounted();
    while (this.at < end) {
      const from = this.at;
      const tag = this.uint32();
      switch (tag) {
        case 58:
          this.attribute(from, end);
          break;
        case 50: {
          const to = this.end(end);
          let quantile = 0;
          let value = 0;
          while (this.at < to) {
            const inner = this.uint32();
            if (inner === 9) quantile = this.double();
            else if (inner === 17) value = this.double();
            else this.skip(inner, to);
          }
          quantiles.push(quantile);
          values.push(value);
          break;
        }
        case 64:
          flags = this.uint32();
          break;
        default:
          this.counted(tag, end);
      }
    }
    const series = this.seriesOf(table, end);
    if (!series) return;
    this.head.flags = flags & FLAG.noRecordedValue;
    this.batch.summary(series, this.head, sums.count, sums.sum, quantiles, values);
  }

  private keepExemplars(series: KnownSeries): void {
    for (const span of this.exemplarSpans) this.batch.addExemplar(this.readExemplar(series, span));
  }

  private readExemplar(series: KnownSeries, { from, to }: Span): Exemplar {
    const exemplar: Exemplar = { series, ms: 0, ns: 0, value: 0, traceId: "", spanId: "", attributes: {} };
    this.at = from;
    while (this.at < to) {
      const tag = this.uint32();
      switch (tag) {
        case 17:
          this.instant(this.time);
          exemplar.ms = this.time.ms;
          exemplar.ns = this.time.ns;
          break;
        case 25:
          exemplar.value = this.double();
          break;
        case 34:
          exemplar.spanId = this.hex(this.end(to));
          break;
        case 42:
          exemplar.traceId = this.hex(this.end(to));
          break;
        case 49:
          exemplar.value = this.sfixed64();
          break;
        case 58:
          readKeyValue(this, this.end(to), exemplar.attributes);
          break;
        default:
          this.skip(tag, to);
      }
    }
    return exemplar;
  }
}
