import { Batch } from "@/core/otlp/batch/batch";
import type { ArrivalSample } from "@/store/pipeline/samples";

/** Of how many seconds points may come at once. */
const BURST_SECONDS = 20;

/** Puts arrivals aside as they came in, as many as is cheap, to try drafts of the pipeline on. */
export class ArrivalSampler {
  private sample = new Batch();
  private seen = 0;
  private since = Date.now();
  private room: number;
  private filledAt = Date.now();

  /** @param rate points a second that are put aside on the long run */
  constructor(private readonly rate: number) {
    this.room = rate * BURST_SECONDS;
  }

  note(batch: Batch): void {
    this.seen += batch.points;
    const now = Date.now();
    this.room = Math.min(this.rate * BURST_SECONDS, this.room + ((now - this.filledAt) / 1000) * this.rate);
    this.filledAt = now;
    if (batch.points === 0 || batch.points > this.room) return;
    this.room -= batch.points;
    this.sample.append(batch);
    this.sample.exemplars.length = 0;
  }

  /** What was gathered since the last time; null where nothing came. */
  take(): ArrivalSample | null {
    const now = Date.now();
    const { sample: batch, seen, since } = this;
    if (seen === 0) return null;
    this.sample = new Batch();
    this.seen = 0;
    this.since = now;
    return { span: now - since, seen, batch };
  }
}
