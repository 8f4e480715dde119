import { Batch } from "@/core/otlp/batch";
import type { Gathered } from "@/store/pipeline/samples";

/** Points a second that are put aside on the long run, and at once at most. */
const RATE = 1000;
const BURST = 20_000;

/** Puts arrivals aside as they came in, as many as is cheap, to try drafts of the pipeline on. */
export class ArrivalSampler {
  private gathered = new Batch();
  private seen = 0;
  private since = Date.now();
  private room = BURST;
  private filledAt = Date.now();

  note(batch: Batch): void {
    this.seen += batch.points;
    const now = Date.now();
    this.room = Math.min(BURST, this.room + ((now - this.filledAt) / 1000) * RATE);
    this.filledAt = now;
    if (batch.points === 0 || batch.points > this.room) return;
    this.room -= batch.points;
    this.gathered.append(batch);
    this.gathered.exemplars.length = 0;
  }

  /** What was gathered since the last time; null where nothing came. */
  take(): Gathered | null {
    const now = Date.now();
    const { gathered: batch, seen, since } = this;
    if (seen === 0) return null;
    this.gathered = new Batch();
    this.seen = 0;
    this.since = now;
    return { span: now - since, seen, batch };
  }
}
