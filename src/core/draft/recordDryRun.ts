import type { LogRecord } from "../log/model";
import { severityName } from "../log/model";
import { attributesText } from "../metric/text";
import type { Batch } from "../otlp/batch/batch";
import { Dictionary } from "../otlp/dictionary";
import type { Pipeline } from "../pipeline/pipeline";
import { RecordLane } from "../pipeline/recordLane";
import { isSpan } from "../pipeline/records";
import { recordSize } from "../pipeline/size";
import type { RecordStep, TailStep } from "../pipeline/steps";
import { decide, decided } from "../pipeline/tail";
import type { Span } from "../span/model";

/** What a pipeline does to spans or log records of some minutes. */

/** A record as people read it. */
export interface TextOfRecord {
  title: string;
  attributes: Record<string, string>;
}

export interface RecordDryRun {
  /** How many came, how many are stored, and about how many bytes they take. */
  arrivals: { records: number; bytes: number };
  stored: { records: number; bytes: number };
  /** Some of them; `after` is null where a record goes no further, or waits for its trace. */
  examples: { before: TextOfRecord; after: TextOfRecord | null; waits: boolean }[];
}

const MAX_EXAMPLES = 12;

function amount(all: readonly (Span | LogRecord)[]): { records: number; bytes: number } {
  return { records: all.length, bytes: all.reduce((sum, one) => sum + recordSize(one), 0) };
}

function textOf(record: Span | LogRecord): TextOfRecord {
  const { attributes } = record;
  if (isSpan(record)) {
    const took = `${(record.took / 1e6).toFixed(1)} ms`;
    return {
      title: `${record.name} ${took}${record.status === "error" ? " error" : ""}`,
      attributes: attributesText(attributes),
    };
  }
  const body = typeof record.body === "string" ? record.body : JSON.stringify(record.body);
  return { title: `${severityName(record)} ${body}`.trim(), attributes: attributesText(attributes) };
}

/** Spans whose traces are decided on at once, with all of their spans there are. */
function settleTraces(pipeline: Pipeline, step: TailStep, spans: readonly Span[], now: number): Batch {
  const traces = new Map<string, Span[]>();
  for (const span of spans) {
    const own = traces.get(span.traceId);
    if (own) own.push(span);
    else traces.set(span.traceId, [span]);
  }
  const kept = [...traces.values()].flatMap((own) => decided(step, own, decide(step, own)));
  return pipeline.resumeSpans(step.id, kept, now);
}

/**
 * Sends records through their lane of a pipeline.
 *
 * @param hold told of counts that wait for the lane of metrics
 */
export function tryRecords<T extends Span | LogRecord>(
  pipeline: Pipeline,
  steps: readonly RecordStep[],
  records: readonly T[],
  now: number,
  hold: (step: string, batch: Batch) => void,
): RecordDryRun {
  const stored: (Span | LogRecord)[] = [];
  const take = ({ sideOutputs: aside }: Batch) => {
    for (const { step, batch } of aside?.waiting ?? []) hold(step, batch);
    for (const one of [...(aside?.spans ?? []), ...(aside?.records ?? [])]) stored.push(one);
    for (const { step: id, spans } of aside?.undecided ?? []) {
      const step = steps.find((one) => one.id === id);
      if (step?.type === "tail") take(settleTraces(pipeline, step, spans, now));
    }
  };
  const [first] = records;
  if (first)
    take(
      isSpan(first)
        ? pipeline.admitSpans(records as readonly Span[], now)
        : pipeline.admitLogs(records as readonly LogRecord[], now),
    );
  const lane = new RecordLane(steps, new Dictionary());
  const apart = Math.max(1, Math.floor(records.length / MAX_EXAMPLES));
  const examples = records
    .filter((_, i) => i % apart === 0)
    .slice(0, MAX_EXAMPLES)
    .map((record) => {
      const { out, undecided } = lane.admit([record], now);
      return { before: textOf(record), after: out[0] ? textOf(out[0]) : null, waits: undecided.length > 0 };
    });
  return { arrivals: amount(records), stored: amount(stored), examples };
}
