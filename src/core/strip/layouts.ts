import type { BucketRange, Layout } from "../metric/model";
import { MAX_STORED_WIDTH } from "../metric/pointLimits";
import { type ByteReader, type ByteWriter, StripError } from "./bytes";
import { readColumn, writeColumn } from "./column";

const NUMBER = 0;
const EXPLICIT = 1;
const EXPONENTIAL = 2;
const SUMMARY = 3;
const LEVELS = 4;

function writeDoubles(out: ByteWriter, values: readonly number[]): void {
  out.varint(values.length);
  writeColumn(out, Float64Array.from(values), values.length);
}

function readDoubles(input: ByteReader): number[] {
  const values = new Float64Array(input.size(MAX_STORED_WIDTH, "bounds"));
  readColumn(input, values, values.length);
  return Array.from(values);
}

function writeRange(out: ByteWriter, range: BucketRange): void {
  out.zigzag(range.from);
  out.varint(range.width);
}

function readRange(input: ByteReader): BucketRange {
  return { from: input.zigzag(), width: input.size(MAX_STORED_WIDTH, "buckets") };
}

/** Writes a layout into a strip's head. */
export function writeLayout(out: ByteWriter, layout: Layout): void {
  switch (layout.kind) {
    case "number":
      out.byte(NUMBER);
      return;
    case "explicit":
      out.byte(EXPLICIT);
      writeDoubles(out, layout.bounds);
      return;
    case "exponential":
      out.byte(EXPONENTIAL);
      out.zigzag(layout.scale);
      out.double(layout.zeroThreshold);
      writeRange(out, layout.negative);
      writeRange(out, layout.positive);
      return;
    case "summary":
      out.byte(SUMMARY);
      writeDoubles(out, layout.quantiles);
      return;
    case "levels":
      out.byte(LEVELS);
      return;
  }
}

/** Reads what writeLayout wrote. */
export function readLayout(input: ByteReader): Layout {
  const kind = input.byte();
  switch (kind) {
    case NUMBER:
      return { kind: "number" };
    case EXPLICIT:
      return { kind: "explicit", bounds: readDoubles(input) };
    case EXPONENTIAL:
      return {
        kind: "exponential",
        scale: input.zigzag(),
        zeroThreshold: input.double(),
        negative: readRange(input),
        positive: readRange(input),
      };
    case SUMMARY:
      return { kind: "summary", quantiles: readDoubles(input) };
    case LEVELS:
      return { kind: "levels" };
    default:
      throw new StripError(`unknown layout ${kind}`);
  }
}
