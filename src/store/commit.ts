import type pg from "pg";
import type { PointSet } from "@/core/metric/model";
import { originOf } from "@/core/metric/origin";
import type { Batch, OverflowedPoint } from "@/core/otlp/batch/batch";
import type { Exemplar } from "@/core/otlp/batch/exemplar";
import type { KnownSeries } from "@/core/otlp/dictionary";
import { divided, subjectOf } from "@/core/otlp/divide";
import type { Overflow } from "@/core/otlp/overflow";
import { packBatch } from "@/core/pipeline/block";
import { DAY } from "@/core/window/lengths";
import { transaction } from "./database/connect";
import { isContentError, isMissingPartition } from "./database/contentError";
import { ensurePartitions, forgetPartitions, RAW } from "./database/partitions";
import { Queues } from "./exports/exports";
import { BufferedSeries } from "./pipeline/bufferedSeries";
import { type Piece, putAside } from "./pipeline/setAside";
import { prepareSideOutputs } from "./pipeline/sideOutputs";
import { forgetResourceIds } from "./records/records";
import { noteRequests, RepeatError, withoutRepeats } from "./records/repeats";
import { ActivityLog } from "./registry/activity";
import { registerSeries } from "./registry/registry";
import { EpochError, holdEpoch } from "./registry/registryEpoch";
import { makeStrip, splitBySpan, writeStrips } from "./strips/strips";

/** How often a commit is begun anew because ids were taken away or a request was stored meanwhile. */
const MAX_TRIES = 5;
/** For so long after it was first heard of, a series counts as one that had no point before, ms. */
const NEW_FOR = 60_000;
/** How often a release that is still heard is noted, ms. */
const HEARD_EVERY = 10_000;

/** When a release was heard in an environment, Unix ms. */
export interface ReleaseActivity {
  service: string;
  environment: string;
  version: string;
  first: number;
  last: number;
}

/** Ends a transaction that only tries whether the store would take something. */
class Tried extends Error {
  override name = "Tried";
}

/**
 * Writes points for good. One instance per process: it remembers which releases were noted lately.
 */
export class Committer {
  private readonly noted = new Map<string, { first: number; last: number }>();
  private readonly seriesLimit: number;
  private readonly overflow: Overflow | null;
  /** Of the registry, that the ids are of. */
  private epoch = 0;
  private readonly queues: Queues;
  /** Numbers of series whose points wait. */
  readonly members: BufferedSeries;
  /** What was heard of each resource; written a little later. */
  readonly heardLog: ActivityLog;

  /** @param limit how many series a metric may have of one service, and what takes the points of others; none where left out */
  constructor(
    private readonly pool: pg.Pool,
    limit?: { series: number; overflow: Overflow },
  ) {
    this.seriesLimit = limit?.series ?? Number.POSITIVE_INFINITY;
    this.overflow = limit?.overflow ?? null;
    this.queues = new Queues(pool);
    this.members = new BufferedSeries(pool);
    this.heardLog = new ActivityLog(pool);
  }

  /**
   * Commits batches together, in order, with what was taken aside of them; when it returns, every point is durable.
   * Throws if none is. A request that is durable already is not stored again.
   *
   * @param also what has to happen with it, or not at all
   */
  async commit(batches: readonly Batch[], also?: (client: pg.PoolClient) => Promise<void>): Promise<void> {
    for (let tries = 0; ; tries++) {
      try {
        return await this.commitOnce(batches, also);
      } catch (error) {
        if (tries >= MAX_TRIES) throw error;
        if (isMissingPartition(error)) forgetPartitions();
        else if (error instanceof EpochError) {
          this.epoch = error.epoch;
          forgetResourceIds(this.pool);
        } else if (!(error instanceof RepeatError)) throw error;
      }
    }
  }

  private async commitOnce(all: readonly Batch[], also?: (client: pg.PoolClient) => Promise<void>): Promise<void> {
    const batches = await withoutRepeats(this.pool, all);
    if (batches.length === 0 && all.length > 0 && !also) return;
    await this.register(batches);
    const sets = new Map<number, PointSet[]>();
    const since = Date.now() - NEW_FOR;
    const isNew = ({ firstAt }: KnownSeries) => firstAt > since;
    for (const batch of batches) {
      for (const { metric, sets: more } of batch.pointSets(isNew)) {
        const found = sets.get(metric.id);
        if (found) for (const set of more) found.push(set);
        else sets.set(metric.id, more);
      }
    }
    const overflowed = await this.absorb(batches, sets);
    const strips = [...sets].flatMap(([metricId, some]) =>
      [...splitBySpan(some, DAY).values()].map((day) => makeStrip(metricId, joinEqual(day), 0, null)),
    );
    const withAside = batches.flatMap((batch) => [batch, ...pointsAside(batch)]);
    const activity = this.releaseActivity(withAside);
    const exemplars = batches.flatMap((batch) => batch.exemplars);
    await ensurePartitions(
      this.pool,
      RAW,
      strips.map(({ from }) => from),
    );
    const writeAside = await prepareSideOutputs(this.pool, this.queues, this.members, batches);
    await transaction(this.pool, async (client) => {
      const epoch = await holdEpoch(client);
      if (epoch !== this.epoch) throw new EpochError(epoch);
      await noteRequests(client, batches, Date.now());
      await writeStrips(client, strips);
      if (exemplars.length > 0) await writeExemplars(client, exemplars);
      if (activity.length > 0) await noteReleases(client, activity);
      await writeAside(client);
      await also?.(client);
    });
    overflowed();
    this.noteHeard(withAside);
    this.noteRecords(batches);
    for (const { service, environment, version, first, last } of activity) {
      this.noted.set(JSON.stringify([service, environment, version]), { first, last });
    }
  }

  /**
   * Commits a batch, but for what the store refuses of it: that is set aside with the same transaction.
   *
   * @param also what has to happen with it, or not at all
   */
  async commitSound(batch: Batch, also: (client: pg.PoolClient) => Promise<void>): Promise<void> {
    try {
      await this.commit([batch], also);
    } catch (error) {
      if (!isContentError(error)) throw error;
      const sound: Batch[] = [];
      const pieces: Piece[] = [];
      await this.sift(batch, error, sound, pieces);
      await this.commit(sound, async (client) => {
        await putAside(client, pieces);
        await also(client);
      });
    }
  }

  /** Tells the parts of a batch that the store takes from those that it refuses, by trying without keeping. */
  private async sift(batch: Batch, error: unknown, sound: Batch[], pieces: Piece[]): Promise<void> {
    const parts = divided(batch);
    if (parts.length === 0)
      pieces.push({
        kind: "window",
        subject: subjectOf(batch),
        points: batch.points,
        reason: error,
        body: packBatch(batch),
      });
    for (const part of parts) {
      try {
        await this.commit([part], () => Promise.reject(new Tried()));
      } catch (found) {
        if (found instanceof Tried) sound.push(part);
        else if (isContentError(found)) await this.sift(part, found, sound, pieces);
        else throw found;
      }
    }
  }

  private async register(batches: readonly Batch[]): Promise<void> {
    const unregistered = new Set<KnownSeries>();
    const now = Date.now();
    for (const batch of batches)
      for (const series of batch.series())
        if (!this.knows(series) && (!series.overflowed || series.retryAt <= now)) unregistered.add(series);
    if (unregistered.size > 0) await this.giveIds([...unregistered], this.seriesLimit);
  }

  private knows({ id, epoch }: KnownSeries): boolean {
    return id !== 0 && epoch === this.epoch;
  }

  private async giveIds(all: readonly KnownSeries[], limit?: number): Promise<void> {
    for (const series of all) series.id = 0;
    await registerSeries(this.pool, all, limit);
    for (const series of all) series.epoch = this.epoch;
  }

  /** Adds what the series past the limit add to the sets that are written. @returns how to note that they are */
  private async absorb(batches: readonly Batch[], sets: Map<number, PointSet[]>): Promise<() => void> {
    const { overflow, seriesLimit } = this;
    if (!overflow) return () => {};
    const points = batches.flatMap((batch) => [...batch.overflowed()]);
    if (points.length === 0) return () => {};
    const refused: { point: OverflowedPoint; reason: string }[] = [];
    const { sums, apply } = overflow.absorb(points, (point, reason) => refused.push({ point, reason }));
    const unregistered = sums.map(({ series }) => series).filter((series) => !this.knows(series));
    if (unregistered.length > 0) await this.giveIds(unregistered);
    for (const sum of sums) {
      const { metric } = sum.series;
      sets.set(metric.id, [...(sets.get(metric.id) ?? []), overflow.pointOf(sum)]);
    }
    for (const { batch, series } of points.filter(({ series }) => series.overflowed)) {
      const { name } = series.metric.identity;
      batch.warn(
        `${name} has more than ${seriesLimit} series of one service: further ones go to the series marked otel.metric.overflow`,
      );
    }
    return () => {
      apply();
      // Counted once it is written: what is tried again is not refused again.
      for (const { point, reason } of refused.filter(({ point }) => point.series.overflowed))
        point.batch.reject(
          point.series.metric.identity.name,
          `past the limit of ${seriesLimit} series of one service, and ${reason}`,
        );
      for (const { series } of points)
        if (series.resumes) {
          series.resumes = false;
          overflow.forget(series);
        }
    };
  }

  private noteHeard(batches: readonly Batch[]): void {
    const counts = new Map<KnownSeries["identity"]["resource"], number>();
    for (const batch of batches.filter(({ silent }) => !silent))
      batch.eachRun((series, points) => {
        const { resource } = series.identity;
        counts.set(resource, (counts.get(resource) ?? 0) + points);
      });
    const now = Date.now();
    for (const [resource, points] of counts) this.heardLog.note(resource, points, now);
  }

  private noteRecords(batches: readonly Batch[]): void {
    const now = Date.now();
    const resources = batches.flatMap(({ sideOutputs: aside }) =>
      [...(aside?.spans ?? []), ...(aside?.records ?? [])].map(({ resource }) => resource),
    );
    for (const resource of new Set(resources)) this.heardLog.noteRecords(resource, now);
  }

  /** The releases in the batches whose span of being heard has to be widened. */
  private releaseActivity(batches: readonly Batch[]): ReleaseActivity[] {
    const spans = new Map<KnownSeries["identity"]["resource"], { first: number; last: number }>();
    let before: KnownSeries["identity"]["resource"] | null = null;
    let span: { first: number; last: number } | undefined;
    for (const batch of batches) {
      batch.eachTime((series, time) => {
        const { resource } = series.identity;
        // Points of one resource come in runs.
        if (resource !== before) span = spans.get(resource);
        before = resource;
        if (!span) {
          span = { first: time, last: time };
          spans.set(resource, span);
        } else {
          if (time < span.first) span.first = time;
          if (time > span.last) span.last = time;
        }
      });
    }
    const found = new Map<string, ReleaseActivity>();
    for (const record of batches.flatMap(({ sideOutputs: aside }) => [
      ...(aside?.spans ?? []),
      ...(aside?.records ?? []),
    ])) {
      const known = spans.get(record.resource);
      if (!known) spans.set(record.resource, { first: record.ms, last: record.ms });
      else {
        known.first = Math.min(known.first, record.ms);
        known.last = Math.max(known.last, record.ms);
      }
    }
    for (const [resource, { first, last }] of spans) {
      const { service, environment, release } = originOf(resource);
      const key = JSON.stringify([service, environment, release]);
      const known = found.get(key) ?? this.noted.get(key);
      const activity = {
        service,
        environment,
        version: release,
        first: Math.min(first, known?.first ?? first),
        last: Math.max(last, known?.last ?? last),
      };
      const noted = this.noted.get(key);
      if (!noted || activity.first < noted.first || activity.last >= noted.last + HEARD_EVERY) found.set(key, activity);
    }
    return [...found.values()];
  }
}

/** Points that are neither stored nor lost: they wait, or only go to exporters. */
function pointsAside(batch: Batch): Batch[] {
  const { waiting = [], exports = [] } = batch.sideOutputs ?? {};
  const [only] = exports.flatMap(({ content }) =>
    content.signal === "metrics" && content.batch !== batch ? [content.batch] : [],
  );
  return [...waiting.map((one) => one.batch), ...(only ? [only] : [])];
}

/** Puts number sets of one commit together: one entry across all series. */
function joinEqual(sets: PointSet[]): PointSet[] {
  const numbers = sets.filter(({ layout }) => layout.kind === "number");
  if (numbers.length < 2) return sets;
  const join = (pick: (set: PointSet) => Float64Array) => {
    const whole = new Float64Array(numbers.reduce((sum, { count }) => sum + count, 0));
    let at = 0;
    for (const set of numbers) {
      whole.set(pick(set), at);
      at += set.count;
    }
    return whole;
  };
  const joined: PointSet = {
    layout: numbers[0].layout,
    count: numbers.reduce((sum, { count }) => sum + count, 0),
    series: join((set) => set.series),
    timeMs: join((set) => set.timeMs),
    timeNs: join((set) => set.timeNs),
    startMs: join((set) => set.startMs),
    startNs: join((set) => set.startNs),
    flags: join((set) => set.flags),
    columns: [join((set) => set.columns[0])],
  };
  return [joined, ...sets.filter(({ layout }) => layout.kind !== "number")];
}

async function writeExemplars(client: pg.PoolClient, exemplars: readonly Exemplar[]): Promise<void> {
  await client.query(
    `INSERT INTO exemplar (metric_id, series_id, ms, ns, value, trace_id, span_id, attributes)
     SELECT * FROM unnest($1::int[], $2::bigint[], $3::bigint[], $4::int[], $5::float8[], $6::text[], $7::text[], $8::jsonb[])
     ON CONFLICT DO NOTHING`,
    [
      exemplars.map(({ series }) => series.metric.id),
      exemplars.map(({ series }) => series.id),
      exemplars.map(({ ms }) => ms),
      exemplars.map(({ ns }) => ns),
      exemplars.map(({ value }) => value),
      exemplars.map(({ traceId }) => traceId),
      exemplars.map(({ spanId }) => spanId),
      exemplars.map(({ attributes }) => JSON.stringify(attributes)),
    ],
  );
}

/** Widens the spans in which releases were activity. */
export async function noteReleases(client: pg.PoolClient, activity: readonly ReleaseActivity[]): Promise<void> {
  const ordered = [...activity].sort((a, b) =>
    a.service + a.environment + a.version < b.service + b.environment + b.version ? -1 : 1,
  );
  await client.query(
    `INSERT INTO release (service, environment, version, first_at, last_at)
     SELECT * FROM unnest($1::text[], $2::text[], $3::text[], $4::bigint[], $5::bigint[])
     ON CONFLICT (service, environment, version) DO UPDATE
       SET first_at = least(release.first_at, excluded.first_at), last_at = greatest(release.last_at, excluded.last_at)`,
    [
      ordered.map(({ service }) => service),
      ordered.map(({ environment }) => environment),
      ordered.map(({ version }) => version),
      ordered.map(({ first }) => first),
      ordered.map(({ last }) => last),
    ],
  );
}
