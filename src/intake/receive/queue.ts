import type { Batch } from "@/core/otlp/batch/batch";
import { itemsOf } from "@/core/otlp/batch/sideOutputs";
import { divided, subjectOf } from "@/core/otlp/divide";
import { FullError } from "./budget";

/** Points that may wait for the commit that follows the running one, where nothing else is said. */
const MAX_WAITING = 400_000;
/** Points in one commit. */
const MAX_TOGETHER = 200_000;

/** All that a batch brings: points, spans and records, those that were taken aside included. */
function pointsOf({ points, sideOutputs: aside }: Batch): number {
  if (!aside) return points;
  const waiting = aside.waiting.reduce((sum, { batch }) => sum + batch.points, 0);
  const undecided = aside.undecided.reduce((sum, { spans }) => sum + spans.length, 0);
  const exported = aside.exports.reduce((sum, { content }) => sum + itemsOf(content), 0);
  return points + waiting + undecided + aside.spans.length + aside.records.length + exported;
}

interface Waiting {
  batch: Batch;
  done: () => void;
  failed: (error: unknown) => void;
}

/**
 * Commits in groups: everything that arrived while one commit ran goes into the next. A caller waits until its own
 * points are durable. Where a group fails for what is in it, it is halved until what is refused stands alone, so that it
 * cannot spoil the rest; where the store is away, all are told at once.
 */
export class CommitQueue {
  private waiting: Waiting[] = [];
  private waitingPoints = 0;
  private running: Promise<void> | null = null;

  /**
   * @param commit makes batches durable together, or throws
   * @param isContentError whether a failure lies in what was to be written rather than in the store
   */
  constructor(
    private readonly commit: (batches: readonly Batch[]) => Promise<void>,
    private readonly isContentError: (error: unknown) => boolean,
    /** Told of content that was refused. */
    private readonly refused: (error: unknown) => void = () => {},
    /** Points that may wait for the commit that follows the running one. */
    private readonly mostWaiting = MAX_WAITING,
  ) {}

  /** Points that wait for the next commit. */
  get backlog(): number {
    return this.waitingPoints;
  }

  /** Resolves once the batch is durable. @throws FullError at once where too much is waiting */
  submit(batch: Batch): Promise<void> {
    const points = pointsOf(batch);
    if (points === 0) return Promise.resolve();
    if (this.waitingPoints + points > this.mostWaiting && this.waiting.length > 0) {
      return Promise.reject(new FullError(`${this.waitingPoints} points are waiting to be written`));
    }
    return new Promise((done, failed) => {
      this.waiting.push({ batch, done, failed });
      this.waitingPoints += points;
      this.running ??= this.drain();
    });
  }

  /** Resolves when nothing is waiting any more. */
  async idle(): Promise<void> {
    while (this.running) await this.running;
  }

  private async drain(): Promise<void> {
    while (this.waiting.length > 0) await this.writeGroup(this.takeGroup());
    this.running = null;
  }

  private takeGroup(): Waiting[] {
    let points = 0;
    let size = 0;
    while (size < this.waiting.length && (size === 0 || points + pointsOf(this.waiting[size].batch) <= MAX_TOGETHER)) {
      points += pointsOf(this.waiting[size++].batch);
    }
    this.waitingPoints -= points;
    return this.waiting.splice(0, size);
  }

  private async writeGroup(group: Waiting[]): Promise<void> {
    try {
      await this.commit(group.map(({ batch }) => batch));
      for (const { done } of group) done();
    } catch (error) {
      const content = this.isContentError(error);
      // A mistake of ours that one batch brings about is that batch's alone; where the store is away, it is away for all.
      const ours = error instanceof TypeError || error instanceof RangeError;
      if (!content && !(ours && group.length > 1)) for (const { failed } of group) failed(error);
      else if (group.length > 1) {
        const middle = group.length >> 1;
        await this.writeGroup(group.slice(0, middle));
        await this.writeGroup(group.slice(middle));
      } else await this.writeApart(group[0], error);
    }
  }

  /** Writes what can be written of a batch that the store refuses, and rejects the rest of it by name. */
  private async writeApart({ batch, done, failed }: Waiting, error: unknown): Promise<void> {
    this.refused(error);
    try {
      await this.writeParts(batch, batch, error);
      done();
    } catch (trouble) {
      failed(trouble);
    }
  }

  private async writeParts(whole: Batch, part: Batch, error: unknown): Promise<void> {
    const items = Math.max(1, pointsOf(part));
    const parts = divided(part);
    if (parts.length === 0)
      return whole.reject(subjectOf(part), `it cannot be stored: ${(error as Error).message}`, items);
    for (const one of parts) {
      try {
        await this.commit([one]);
      } catch (found) {
        if (!this.isContentError(found)) throw found;
        await this.writeParts(whole, one, found);
      }
    }
  }
}
