import { type Batch, itemsOf } from "@/core/otlp/batch";
import { FullError } from "./budget";

/** Points that may wait for the commit that follows the running one. */
const MOST_WAITING = 400_000;
/** Points in one commit. */
const MOST_TOGETHER = 200_000;

/** All that a batch brings: points, spans and records, those that were taken aside included. */
function pointsOf({ points, aside }: Batch): number {
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
 * points are durable. Where a group fails for what is in it, its batches are tried one by one, so that one cannot spoil
 * the others; where the store is away, all are told at once.
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
  ) {}

  /** Points that wait for the next commit. */
  get backlog(): number {
    return this.waitingPoints;
  }

  /** Resolves once the batch is durable. @throws FullError at once where too much is waiting */
  submit(batch: Batch): Promise<void> {
    const points = pointsOf(batch);
    if (points === 0) return Promise.resolve();
    if (this.waitingPoints + points > MOST_WAITING && this.waiting.length > 0) {
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
    while (size < this.waiting.length && (size === 0 || points + pointsOf(this.waiting[size].batch) <= MOST_TOGETHER)) {
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
      if (group.length > 1 && this.isContentError(error)) for (const one of group) await this.writeGroup([one]);
      else for (const { failed } of group) failed(error);
    }
  }
}
