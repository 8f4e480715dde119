import type { LogRecord } from "../log/model";
import { type Attributes, columnCount } from "../metric/model";
import { valueText } from "../metric/text";
import type { Batch } from "../otlp/batch/batch";
import type { KnownSeries } from "../otlp/dictionary";
import type { Span } from "../span/model";
import { isSpan, type Passing, SPECIAL, type TelemetryRecord } from "./records";

/** About how many bytes things take in OTLP, as far as steps change it: who sent them stands once for many. */

/** Times, flags and the lengths around them. */
const POINT = 28;
const SPAN = 60;
const LOG_RECORD = 40;
const ATTRIBUTE = 8;
/** A number of a point: a value, a bucket, a sum. */
const COLUMN = 9;

function attributesSize(attributes: Attributes): number {
  let size = 0;
  for (const key in attributes) size += ATTRIBUTE + key.length + valueText(attributes[key]).length;
  return size;
}

/** A point of a series without its numbers. */
export function headSize({ identity }: KnownSeries): number {
  return POINT + attributesSize(identity.attributes);
}

/** The numbers of a point. */
export function columnsSize(columns: number): number {
  return COLUMN * columns;
}

/** All points of a batch. */
export function batchSize(batch: Batch): number {
  const { all, sets } = batch.inColumns();
  const heads = all.map(headSize);
  let size = 0;
  for (const { set } of sets) {
    const numbers = columnsSize(columnCount(set.layout));
    for (let row = 0; row < set.count; row++) size += heads[set.series[row]] + numbers;
  }
  return size;
}

/** A span or log record. */
export function recordSize(record: Span | LogRecord): number {
  const own = isSpan(record) ? SPAN + record.name.length : LOG_RECORD + valueText(record.body).length;
  return own + attributesSize(record.attributes);
}

/** A span or log record as it is on its way: its name or body stands among its attributes there. */
export function passingSize({ record, now }: Passing<TelemetryRecord>): number {
  const text = now.attributes[isSpan(record) ? "span.name" : "log.body"];
  let size = (isSpan(record) ? SPAN : LOG_RECORD) + (text === undefined ? 0 : valueText(text).length);
  for (const key in now.attributes)
    if (!SPECIAL.has(key)) size += ATTRIBUTE + key.length + valueText(now.attributes[key]).length;
  return size;
}
