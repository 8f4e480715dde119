import { Batch } from "../otlp/batch/batch";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import { HOUR } from "../window/lengths";
import { type Amount, addAmount, plus, sameShape, type TimedAmount } from "./amount";
import { type Base, Increases, isAdded, MAX_REMEMBERED, rowsBySeries, seriesText } from "./increases";

/**
 * Temporality, both ways (OpenTelemetry metrics data model, "Temporality"): totals as what each adds, increments as
 * running totals. What is there already as wanted, and levels, go through as they are. A total whose histogram changes
 * its buckets begins anew.
 */

export type WantedTemporality = "delta" | "cumulative";

/** What is remembered between batches, as plain data. */
export interface TemporalityState {
  began: number;
  bases: [string, Base][];
  totals: [string, TimedAmount][];
}

/** How long a series is remembered that is not heard, ms. */
const FORGET = 24 * HOUR;

export class TemporalityChange {
  private readonly increases: Increases;
  private readonly totals: Map<string, TimedAmount>;
  private readonly began: number;

  /** @param since when it begins, Unix ms; a saved state says so itself */
  constructor(
    private readonly wanted: WantedTemporality,
    since: number,
    saved?: TemporalityState,
  ) {
    this.began = saved?.began ?? since;
    this.increases = new Increases(this.began, saved?.bases);
    this.totals = new Map(saved?.totals ?? []);
  }

  save(): TemporalityState {
    return { began: this.began, bases: this.increases.save(), totals: [...this.totals] };
  }

  private changes({ metric: { identity } }: KnownSeries): boolean {
    return isAdded(identity) && identity.temporality !== this.wanted;
  }

  /** The points of a batch in the wanted temporality; the batch is used up. */
  change(batch: Batch, dictionary: Dictionary): Batch {
    const out = new Batch();
    const rest = new Batch();
    batch.reroute((series) => [{ batch: this.changes(series) ? rest : out, series }]);
    let latest = 0;
    this.increases.seedAbsent(rest);
    for (const [series, rows] of rowsBySeries(rest, () => {})) {
      const target = this.targetOf(series, dictionary);
      const key = seriesText(series);
      for (const row of rows) {
        latest = Math.max(latest, row.time);
        const increase = this.increases.of(key, series.metric.identity, row);
        if (!increase?.added) continue;
        if (this.wanted === "delta")
          addAmount(out, target, { start: increase.since, time: row.time, amount: increase.added });
        else this.addUp(out, target, key, increase.since, row.time, increase.added);
      }
    }
    for (const exemplar of rest.exemplars)
      out.exemplars.push({ ...exemplar, series: this.targetOf(exemplar.series, dictionary) });
    this.forget(latest - FORGET);
    return out;
  }

  private targetOf({ metric, identity }: KnownSeries, dictionary: Dictionary): KnownSeries {
    const changed = dictionary.metric({ ...metric.identity, temporality: this.wanted }, metric.description);
    return dictionary.series(changed, identity);
  }

  private addUp(out: Batch, target: KnownSeries, key: string, since: number, time: number, added: Amount): void {
    const before = this.totals.get(key);
    if (!before && this.totals.size >= MAX_REMEMBERED) return;
    const sum = before ? plus(before.amount, added) : added;
    const anew = !before || !sum || !sameShape(before.amount, sum);
    const start = anew ? Math.min(since > 0 ? since : time, time) : before.start;
    const total: TimedAmount = {
      start,
      time: Math.max(time, before?.time ?? 0),
      amount: anew ? bare(added) : bare(sum),
    };
    this.totals.set(key, total);
    addAmount(out, target, total);
  }

  private forget(before: number): void {
    this.increases.forget(before);
    for (const [key, { time }] of this.totals) if (time < before) this.totals.delete(key);
  }
}

/** Without least and greatest, which a running total does not know. */
function bare(amount: Amount): Amount {
  return amount.kind === "number" ? amount : { ...amount, min: null, max: null };
}
