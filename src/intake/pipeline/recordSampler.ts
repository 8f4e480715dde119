import type { LogRecord } from "@/core/log/model";
import type { Span } from "@/core/span/model";
import type { RecordSample } from "@/store/pipeline/samples";

/** Of how many seconds records may come at once. */
const BURST_SECONDS = 10;

/** One signal's records as they came in, as many as is cheap. */
class SignalSampler<T> {
  private records: T[] = [];
  private seen = 0;
  private since = Date.now();
  private room: number;
  private filledAt = Date.now();

  /** @param rate records a second that are put aside on the long run */
  constructor(private readonly rate: number) {
    this.room = rate * BURST_SECONDS;
  }

  note(some: readonly T[]): void {
    this.seen += some.length;
    const now = Date.now();
    this.room = Math.min(this.rate * BURST_SECONDS, this.room + ((now - this.filledAt) / 1000) * this.rate);
    this.filledAt = now;
    // A request as a whole or not at all: traces stay together as far as they came together.
    if (some.length > this.room) return;
    this.room -= some.length;
    for (const one of some) this.records.push(one);
  }

  take(): { span: number; seen: number; records: T[] } | null {
    const now = Date.now();
    const { records, seen, since } = this;
    this.records = [];
    this.seen = 0;
    this.since = now;
    return seen === 0 ? null : { span: now - since, seen, records };
  }
}

/** Puts spans and log records aside as they came in, to try drafts of the pipeline on. */
export class RecordSampler {
  private readonly spans: SignalSampler<Span>;
  private readonly logs: SignalSampler<LogRecord>;

  /** @param rate records a second of each signal that are put aside on the long run */
  constructor(rate: number) {
    this.spans = new SignalSampler(rate);
    this.logs = new SignalSampler(rate);
  }

  noteSpans(spans: readonly Span[]): void {
    this.spans.note(spans);
  }

  noteLogs(records: readonly LogRecord[]): void {
    this.logs.note(records);
  }

  /** What was gathered since the last time. */
  take(): RecordSample[] {
    const spans = this.spans.take();
    const logs = this.logs.take();
    return [
      ...(spans ? [{ signal: "traces" as const, ...spans }] : []),
      ...(logs ? [{ signal: "logs" as const, ...logs }] : []),
    ];
  }
}
