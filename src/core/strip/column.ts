import { type ByteReader, type ByteWriter, StripError } from "./bytes";
import { LARGEST, readInts, writeInts } from "./ints";

/**
 * Columns of doubles, without loss by `Object.is`: constants; integers; short decimals as scaled integers
 * (only where the round trip was verified); else the high and low 32 bits as two integer columns.
 */

const CONSTANT_INTEGER = 0;
const CONSTANT_DOUBLE = 1;
const INTEGERS = 2;
const DECIMALS = 3;
const HALVES = 4;
const PLAIN = 5;

const MAX_DIGITS = 6;
const SHORT = 16;
const POWERS = Array.from({ length: MAX_DIGITS + 1 }, (_, digits) => 10 ** digits);

const word = new Float64Array(1);
const halves = new Uint32Array(word.buffer);
const LITTLE_ENDIAN = new Uint8Array(new Uint32Array([1]).buffer)[0] === 1;
const LOW = LITTLE_ENDIAN ? 0 : 1;
const HIGH = 1 - LOW;

function isPlainInteger(value: number): boolean {
  return Number.isInteger(value) && value <= LARGEST && value >= -LARGEST && (value !== 0 || 1 / value > 0);
}

function allIntegers(values: Float64Array, count: number): boolean {
  for (let i = 0; i < count; i++) if (!isPlainInteger(values[i])) return false;
  return true;
}

function scaled(value: number, power: number): number {
  return Math.round(value * power);
}

function fits(value: number, power: number): boolean {
  const whole = scaled(value, power);
  return isPlainInteger(whole) && Object.is(whole / power, value);
}

/** The fewest decimal digits that hold every value exactly, or 0 where there are none. */
function decimalDigits(values: Float64Array, count: number): number {
  let digits = 1;
  for (let i = 0; i < count; i++) {
    while (digits <= MAX_DIGITS && !fits(values[i], POWERS[digits])) digits++;
    if (digits > MAX_DIGITS) return 0;
  }
  for (let i = 0; i < count; i++) if (!fits(values[i], POWERS[digits])) return 0;
  return digits;
}

/** Writes the first `count` doubles of a column. */
export function writeColumn(out: ByteWriter, values: Float64Array, count: number): void {
  if (count === 0) return;
  let same = true;
  for (let i = 1; i < count && same; i++) same = Object.is(values[i], values[0]);
  if (same) {
    if (isPlainInteger(values[0])) {
      out.byte(CONSTANT_INTEGER);
      out.zigzag(values[0]);
    } else {
      out.byte(CONSTANT_DOUBLE);
      out.double(values[0]);
    }
    return;
  }
  if (allIntegers(values, count)) {
    out.byte(INTEGERS);
    writeInts(out, values, count);
    return;
  }
  const digits = decimalDigits(values, count);
  if (digits > 0) {
    out.byte(DECIMALS);
    out.byte(digits);
    const whole = new Float64Array(count);
    for (let i = 0; i < count; i++) whole[i] = scaled(values[i], POWERS[digits]);
    writeInts(out, whole, count);
    return;
  }
  if (count < SHORT) {
    out.byte(PLAIN);
    for (let i = 0; i < count; i++) out.double(values[i]);
    return;
  }
  out.byte(HALVES);
  const high = new Float64Array(count);
  const low = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    word[0] = values[i];
    high[i] = halves[HIGH];
    low[i] = halves[LOW];
  }
  writeInts(out, high, count);
  writeInts(out, low, count);
}

/** Reads a column of `count` doubles into `out` from `offset` on. */
export function readColumn(input: ByteReader, out: Float64Array, count: number, offset = 0): void {
  if (count === 0) return;
  const head = input.byte();
  switch (head) {
    case CONSTANT_INTEGER:
      out.fill(input.zigzag(), offset, offset + count);
      return;
    case CONSTANT_DOUBLE:
      out.fill(input.double(), offset, offset + count);
      return;
    case INTEGERS:
      readInts(input, out, count, offset);
      return;
    case DECIMALS: {
      const digits = input.byte();
      if (digits < 1 || digits > MAX_DIGITS) throw new StripError(`column of ${digits} decimal digits`);
      readInts(input, out, count, offset);
      const power = POWERS[digits];
      for (let i = offset; i < offset + count; i++) out[i] /= power;
      return;
    }
    case HALVES:
      readHalves(input, out, count, offset);
      return;
    case PLAIN:
      for (let i = offset; i < offset + count; i++) out[i] = input.double();
      return;
    default:
      throw new StripError(`unknown column ${head}`);
  }
}

function readHalves(input: ByteReader, out: Float64Array, count: number, offset: number): void {
  const high = new Float64Array(count);
  readInts(input, high, count);
  readInts(input, out, count, offset);
  for (let i = 0; i < count; i++) {
    halves[LOW] = out[offset + i];
    halves[HIGH] = high[i];
    out[offset + i] = word[0];
  }
}
