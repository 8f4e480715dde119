import type pg from "pg";
import { FLAG } from "@/core/metric/model";
import { Batch } from "@/core/otlp/batch/batch";
import { Dictionary, type KnownSeries } from "@/core/otlp/dictionary";
import { addAmount } from "@/core/pipeline/amount";
import type { PipelineConfig } from "@/core/pipeline/config";
import { passes } from "@/core/pipeline/follow";
import { seriesOfText, seriesText, totalsOf } from "@/core/pipeline/increases";
import { countedSteps, Pipeline } from "@/core/pipeline/pipeline";
import type { StepCount } from "@/core/pipeline/routes";
import type { TailStep } from "@/core/pipeline/steps";
import { type Decision, decide, decided } from "@/core/pipeline/tail";
import type { Committer } from "../commit";
import { lastTotals } from "../contracts/lastTotals";
import { transaction } from "../database/connect";
import { isDamage } from "../database/contentError";
import type { BackgroundJob, Done } from "../jobs/job";
import {
  type BufferedNote,
  deleteBuffered,
  listBuffered,
  makeBuffered,
  readBuffered,
  writeBuffered,
} from "./bufferedPoints";
import { type DueTrace, dueTraces, pendingTraceVersions, settleTraces } from "./pendingTraces";
import { type LaneMemory, memoryMark, type PipelineVersion, pipelinesFrom, readMemory, writeMemory } from "./pipeline";
import { putAside } from "./setAside";

/**
 * Closes the windows of the pipeline's steps. One process at a time does so for all intakes, so that series meet whose
 * points come in by different ones. What comes out, what still waits and what the steps remember are written together
 * with the deletion of what was used up: a process that dies in between has done nothing.
 *
 * When another version goes live, steps that stay the same go on with what waits there and what they remember; the
 * windows of the others are closed as they are.
 */

export const CLOSING = { name: "pipeline", does: "run the pipeline's windows", every: 1000 } as const;
/** How long a window waits for stragglers, ms. */
const GRACE = 5000;
/** For how long after a version went live its steps look for what their members added up to before, ms. */
const TAKEN_OVER = 900_000;
/** How long after a version went live points may still be on their way through the one before, ms. */
const SETTLED = 4000;
/** Series after which a lane is begun afresh from its memory. */
const MAX_SERIES = 400_000;
/** Spans that may wait at one step; past it, the oldest traces are decided on at once. */
const MAX_UNDECIDED = 200_000;
/** Packed bytes that one pass takes on. */
const MAX_BYTES = 64 * 1024 * 1024;

interface Run {
  /** Of the memory that the lane stands at: another process may have gone on since. */
  mark: string | null;
  pipeline: Pipeline;
  dictionary: Dictionary;
  /** Series that waited, by their numbers. */
  members: Map<number, KnownSeries>;
  /** When the version went live, and what steps of the one before it remembered that ended with it. */
  at: number;
  ended: LaneMemory["ended"];
}

/** Runs lanes; keeps in memory what it wrote itself. */
export class WindowCloser {
  private readonly runs = new Map<number, Run>();

  constructor(
    private readonly pool: pg.Pool,
    private readonly committer: Committer,
  ) {}

  /** What came out of steps where points waited, and went on from there, in the newest version that ran here. */
  counts(): Record<string, StepCount> {
    const newest = Math.max(0, ...this.runs.keys());
    return this.runs.get(newest)?.pipeline.counts() ?? {};
  }

  /** The job that closes what is due, with what this closer remembers. */
  readonly job: BackgroundJob = {
    ...CLOSING,
    pass: async (_, now) => {
      try {
        return await this.close(now);
      } catch (error) {
        // What was not written is not remembered either.
        this.runs.clear();
        throw error;
      }
    },
  };

  private async close(now: number): Promise<Done> {
    let used = await this.decideTraces(now);
    const notes = await listBuffered(this.pool);
    const versions = await this.versionsFrom(notes);
    for (const [i, version] of versions.entries()) {
      const next = versions[i + 1];
      // What an older version handed over counts as well.
      const own = (i === 0 ? notes : await listBuffered(this.pool)).filter(({ version: of }) => of === version.id);
      if (next && now - next.at >= SETTLED) used += await this.handOver(version, next, own);
      else {
        used += await this.closeDue(version, own, now);
        // Until what is older went through, points of later versions wait.
        break;
      }
    }
    return { done: used, backlog: notes.length, waitingSince: null };
  }

  /** Decides on traces whose time has come, each by the version that its spans came in by. @returns how many spans */
  private async decideTraces(now: number): Promise<number> {
    const waiting = await pendingTraceVersions(this.pool);
    if (waiting.length === 0) return 0;
    const versions = await pipelinesFrom(this.pool, waiting[0]);
    let used = 0;
    for (const version of versions.filter(({ id }) => waiting.includes(id))) {
      const tails = version.config.traces.filter((step): step is TailStep => step.type === "tail");
      for (const step of tails) {
        const due = await dueTraces(this.pool, version.id, step.id, now - step.within * 1000, MAX_UNDECIDED);
        if (due.length > 0) used += await this.settleSound(version, step, due, now);
      }
    }
    return used;
  }

  /** Decides on traces; one that cannot be handled is set aside, so that the others are decided on. */
  private async settleSound(
    version: PipelineVersion,
    step: TailStep,
    due: readonly DueTrace[],
    now: number,
  ): Promise<number> {
    try {
      return await this.settle(version, step, due, now);
    } catch (error) {
      if (!isDamage(error)) throw error;
      if (due.length > 1) {
        const middle = due.length >> 1;
        const first = await this.settleSound(version, step, due.slice(0, middle), now);
        return first + (await this.settleSound(version, step, due.slice(middle), now));
      }
      const [trace] = due;
      await transaction(this.pool, async (client) => {
        const body = Buffer.from(JSON.stringify(trace.spans));
        await putAside(client, [{ kind: "trace", subject: step.id, points: trace.spans.length, reason: error, body }]);
        await settleTraces(client, step.id, [{ trace, kept: false, why: "could not be handled" }], now);
      });
      return trace.spans.length;
    }
  }

  private async settle(
    version: PipelineVersion,
    step: TailStep,
    due: readonly DueTrace[],
    now: number,
  ): Promise<number> {
    const { pipeline } = await this.runOf(version);
    const all = due.map((trace) => {
      const decision = (trace.known as Decision | null) ?? decide(step, trace.spans);
      return { trace, ...decision, spans: decided(step, trace.spans, decision) };
    });
    const batch = pipeline.resumeSpans(
      step.id,
      all.flatMap(({ spans }) => spans),
      now,
    );
    await this.committer.commitSound(batch, (client) => settleTraces(client, step.id, all, now));
    return all.reduce((sum, { trace }) => sum + trace.spans.length, 0);
  }

  /** Versions from the oldest that has something left up to the live one. */
  private async versionsFrom(notes: readonly BufferedNote[]): Promise<PipelineVersion[]> {
    const { rows } = await this.pool.query<{ version: number | null }>(
      "SELECT max(version) AS version FROM lane_state",
    );
    const oldest = notes.reduce((least, { version }) => Math.min(least, version), Number.POSITIVE_INFINITY);
    const from = Math.min(oldest, rows[0].version ?? 0);
    return pipelinesFrom(this.pool, from);
  }

  private async runOf({ id, config, at }: PipelineVersion): Promise<Run> {
    const known = this.runs.get(id);
    const mark = await memoryMark(this.pool, id);
    if (known && known.mark === mark && known.dictionary.size < MAX_SERIES) return known;
    const dictionary = new Dictionary();
    const { steps, ended } = (await readMemory(this.pool, id)) ?? { steps: {} };
    const run = {
      mark,
      dictionary,
      members: new Map(),
      at,
      ended,
      pipeline: new Pipeline(id, config, dictionary, at, steps, ended?.closed),
    };
    this.runs.set(id, run);
    for (const other of this.runs.keys()) if (other < id - 3) this.runs.delete(other);
    return run;
  }

  /** Closes the windows of a version that are due. @returns how many points were used up */
  private async closeDue(version: PipelineVersion, notes: readonly BufferedNote[], now: number): Promise<number> {
    const run = await this.runOf(version);
    return this.advance(version.id, run, notes, (step) => run.pipeline.metrics.boundAt(step, now - GRACE));
  }

  /** @param boundOf up to when the windows of a step are closed; null leaves the step alone */
  private async advance(
    id: number,
    run: Run,
    notes: readonly BufferedNote[],
    boundOf: (step: string) => number | null,
  ): Promise<number> {
    const { pipeline } = run;
    const lane = pipeline.metrics;
    const used: number[] = [];
    const rest: { step: string; batch: Batch }[] = [];
    const out = new Batch();
    out.silent = true;
    const arrived = new Map<string, Batch>();
    let bytes = 0;
    let points = 0;
    for (const step of lane.waitingSteps) {
      const wanted = boundOf(step);
      // Nothing is closed twice: what came late goes into the window that is open, and waits for its end.
      const bound = wanted !== null && wanted > lane.closedUpTo(step) ? wanted : null;
      const more = arrived.get(step);
      if (bound === null) {
        if (more) rest.push({ step, batch: more });
        continue;
      }
      const due: number[] = [];
      for (const note of notes) {
        if (note.step !== step || note.from > bound) continue;
        bytes += note.size;
        if (bytes > MAX_BYTES && due.length > 0) break;
        due.push(note.id);
        points += note.points;
      }
      if (due.length === 0 && !more) continue;
      const batch = await this.readSound(step, due, run);
      for (const one of due) used.push(one);
      if (more) batch.append(more);
      const later = batch.takeLater(bound);
      if (later.points > 0) rest.push({ step, batch: later });
      await this.takeOver(run, step, batch);
      const { out: done, waiting } = lane.advance(step, batch, bound);
      out.append(done);
      for (const { step: next, batch: some } of waiting) {
        const known = arrived.get(next);
        if (known) known.append(some);
        else arrived.set(next, some);
      }
    }
    if (used.length === 0 && out.points === 0) return 0;
    pipeline.end(out);
    const { members } = this.committer;
    const left = rest.filter(({ batch }) => batch.points > 0);
    for (const { batch } of left) await members.name(batch.series(), Date.now());
    const blocks = left.map(({ step, batch }) => makeBuffered(id, step, batch, members));
    await this.committer.commitSound(out, async (client) => {
      await deleteBuffered(client, used);
      await writeBuffered(client, blocks);
      run.mark = await writeMemory(client, id, this.memoryOf(run));
    });
    return points;
  }

  /** What waits in blocks; those that cannot be read are set aside and taken out of the list. */
  private async readSound(step: string, due: number[], run: Run): Promise<Batch> {
    const { members, dictionary } = run;
    try {
      return await readBuffered(this.pool, due, members, dictionary);
    } catch (error) {
      if (!isDamage(error)) throw error;
      for (const id of [...due]) {
        try {
          await readBuffered(this.pool, [id], members, dictionary);
        } catch (reason) {
          if (!isDamage(reason)) throw reason;
          await this.setBlockAside(step, id, reason);
          due.splice(due.indexOf(id), 1);
        }
      }
      return readBuffered(this.pool, due, members, dictionary);
    }
  }

  private async setBlockAside(step: string, id: number, reason: unknown): Promise<void> {
    await transaction(this.pool, async (client) => {
      const { rows } = await client.query<{ points: number; body: Buffer }>(
        "DELETE FROM lane_waiting WHERE id = $1 RETURNING points, body",
        [id],
      );
      const [gone] = rows;
      if (gone) await putAside(client, [{ kind: "window", subject: step, reason, ...gone }]);
    });
  }

  /** What a version remembers, with what it may still need of the one before. */
  private memoryOf({ pipeline, at, ended }: Run): LaneMemory {
    const recent = Date.now() - at <= TAKEN_OVER;
    return { steps: pipeline.metrics.save(), ...(ended && recent ? { ended } : {}) };
  }

  /**
   * Tells a step of a version that went live lately what its members added up to before: as another step remembered it, or
   * as it was stored. So nothing is lost between the last point that went another way and the first that comes here.
   */
  private async takeOver({ pipeline, at, ended }: Run, step: string, batch: Batch): Promise<void> {
    if (Date.now() - at > TAKEN_OVER) return;
    const lane = pipeline.metrics;
    const lacking = lane.lacking(step, batch);
    if (lacking.length === 0) return;
    const before = new Map(ended?.bases ?? []);
    const unregistered: KnownSeries[] = [];
    for (const series of lacking) {
      const base = before.get(seriesText(series));
      if (base) lane.seed(step, series, base);
      else unregistered.push(series);
    }
    let first = Number.POSITIVE_INFINITY;
    batch.eachTime((_, time) => {
      if (time < first) first = time;
    });
    for (const [series, base] of await lastTotals(this.pool, unregistered, first)) lane.seed(step, series, base);
  }

  /** Brings what waits at a version, and what its steps remember, to the next one, or to its end. */
  private async handOver(
    before: PipelineVersion,
    next: PipelineVersion,
    notes: readonly BufferedNote[],
  ): Promise<number> {
    const stays = sameSteps(before.config, next.config);
    const run = await this.runOf(before);
    const ending = notes.filter(({ step }) => !stays.has(step));
    const last = ending.reduce((most, { to }) => Math.max(most, to), 0);
    const bound = (step: string) => {
      if (stays.has(step)) return null;
      // No further than what came: from there on, windows are those of the next version.
      return Math.max(last, run.pipeline.metrics.closedUpTo(step) + 1);
    };
    const used = ending.length > 0 ? await this.advance(before.id, run, ending, bound) : 0;
    await this.inherit(run, next, stays);
    await this.pool.query("UPDATE lane_waiting SET version = $1 WHERE version = $2 AND step = ANY($3::text[])", [
      next.id,
      before.id,
      [...stays],
    ]);
    return used;
  }

  /**
   * Gives a version, once, what steps remember that stay the same, and what those remembered that end. Series of the latter
   * that come out by themselves again go on from there: what they added meanwhile was told by what they had met in.
   */
  private async inherit(run: Run, next: PipelineVersion, stays: ReadonlySet<string>): Promise<void> {
    if ((await memoryMark(this.pool, next.id)) !== null) return;
    const all = Object.entries(run.pipeline.metrics.save());
    const ending = all.filter(([step]) => !stays.has(step)).map(([, state]) => state);
    const bases = ending.flatMap((state) => state.bases);
    const closed = Math.max(next.at, ...ending.map(({ upTo }) => upTo));
    const steps = Object.fromEntries(all.filter(([step]) => stays.has(step)));
    const memory: LaneMemory = { steps, ended: { closed, bases } };
    const lane = new Pipeline(next.id, next.config, run.dictionary, next.at).metrics;
    const back = new Batch();
    back.silent = true;
    for (const [text, base] of bases) {
      const series = seriesOfText(text, run.dictionary);
      // Of increments nothing is taken back up: each says all there is to it.
      if (base.times !== undefined || !passes(lane, series)) continue;
      for (const total of totalsOf(base)) addAmount(back, series, total, FLAG.resumed);
    }
    await this.committer.commit([back], async (client) => {
      await writeMemory(client, next.id, memory);
    });
  }
}

/** Ids of steps, of those where points wait, that two versions have alike. */
function sameSteps(before: PipelineConfig, after: PipelineConfig): Set<string> {
  const steps = (config: PipelineConfig) => [...countedSteps(config), ...config.metrics];
  const known = new Map(steps(before).map((step) => [step.id, JSON.stringify(step)]));
  return new Set(
    steps(after)
      .filter((step) => known.get(step.id) === JSON.stringify(step))
      .map(({ id }) => id),
  );
}
