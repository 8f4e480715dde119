import { type ByteReader, type ByteWriter, StripError } from "./bytes";

/**
 * Columns of integers. Differences of order 0, 1 or 2 are taken, then blocks of 128 are stored as
 * base + residual in the fewest bits, with up to 12 outliers (counter resets, pauses) patched in afterwards.
 * Short columns are plain signed varints. Frame of reference with patches: Zukowski et al. 2006.
 */

/** Integers up to this size stay exact through second differences. */
export const LARGEST = 2 ** 50;

const BLOCK = 128;
const SHORT = 32;
const MAX_OUTLIERS = 12;
const CONSTANT = 3;
const PACKED = 4;

const residuals = new Float64Array(BLOCK);
/** Differences of the first block, of either order. */
const differencesOf = [new Float64Array(BLOCK), new Float64Array(BLOCK)] as const;
/** So many values at either end of a block say which window of it leaves outliers outside. */
const ENDS = MAX_OUTLIERS + 2;
const lowest = new Float64Array(ENDS);
const highest = new Float64Array(ENDS);
const high = new Float64Array(BLOCK);
const low = new Float64Array(BLOCK);

function bitsFor(span: number): number {
  return span < 1 ? 0 : span < 0x100000000 ? 32 - Math.clz32(span) : 64 - Math.clz32(Math.floor(span / 0x100000000));
}

function difference(values: ArrayLike<number>, i: number, order: number): number {
  if (order === 0) return values[i];
  if (order === 1) return values[i] - values[i - 1];
  return values[i] - 2 * values[i - 1] + values[i - 2];
}

/**
 * A cheap measure of what differences cost: bits of their distances from their usual size. Outliers, which are patched,
 * must not shift what is usual.
 *
 * @param size sum of the sizes of differences [from, end)
 */
function costOf(differences: Float64Array, from: number, end: number, size: number): number {
  const most = (size / (end - from)) * 4;
  let sum = 0;
  let usual = 0;
  for (let i = from; i < end; i++) {
    const value = differences[i];
    if (Math.abs(value) > most) continue;
    sum += value;
    usual++;
  }
  const middle = usual > 0 ? Math.round(sum / usual) : 0;
  let cost = 0;
  for (let i = from; i < end; i++) cost += bitsFor(Math.abs(differences[i] - middle));
  return cost;
}

/** The order of differences that costs least in the first block. Order 0 is charged by its span: its base is subtracted. */
function chooseOrder(values: ArrayLike<number>, count: number): number {
  const end = Math.min(count, BLOCK);
  const [first, second] = differencesOf;
  let least = values[0];
  let most = least;
  let before = least;
  let step = 0;
  let sizeOfFirst = 0;
  let sizeOfSecond = 0;
  for (let i = 1; i < end; i++) {
    const value = values[i];
    if (value < least) least = value;
    if (value > most) most = value;
    const difference = value - before;
    first[i] = difference;
    sizeOfFirst += Math.abs(difference);
    if (i > 1) {
      second[i] = difference - step;
      sizeOfSecond += Math.abs(difference - step);
    }
    before = value;
    step = difference;
  }
  let order = 0;
  let best = bitsFor(most - least) * end;
  for (let candidate = 1; candidate <= 2 && candidate < count; candidate++) {
    const size = candidate === 1 ? sizeOfFirst : sizeOfSecond;
    const cost = costOf(differencesOf[candidate - 1], candidate, end, size) + end;
    if (cost < best * 0.95) {
      best = cost;
      order = candidate;
    }
  }
  return order;
}

/** Writes `count` integers, each at most LARGEST in size. */
export function writeInts(out: ByteWriter, values: ArrayLike<number>, count: number): void {
  if (count === 0) return;
  let same = true;
  for (let i = 1; i < count && same; i++) same = values[i] === values[0];
  if (same) {
    out.byte(CONSTANT);
    out.zigzag(values[0]);
    return;
  }
  const order = chooseOrder(values, count);
  if (count < SHORT) {
    out.byte(order);
    for (let i = 0; i < count; i++) out.zigzag(difference(values, i, Math.min(order, i)));
    return;
  }
  out.byte(order | PACKED);
  for (let i = 0; i < order; i++) out.zigzag(difference(values, i, i));
  for (let from = order; from < count; from += BLOCK) {
    const size = Math.min(BLOCK, count - from);
    if (order === 0) for (let i = 0; i < size; i++) residuals[i] = values[from + i];
    else if (order === 1) for (let i = 0; i < size; i++) residuals[i] = values[from + i] - values[from + i - 1];
    else for (let i = 0; i < size; i++) residuals[i] = difference(values, from + i, 2);
    writeBlock(out, size);
  }
}

/** How far the values of a block are from its mean, on average. */
function spreadAround(mean: number, size: number): number {
  let spread = 0;
  for (let i = 0; i < size; i++) spread += Math.abs(residuals[i] - mean);
  return spread / size;
}

function writeBlock(out: ByteWriter, size: number): void {
  let base = Number.POSITIVE_INFINITY;
  let top = Number.NEGATIVE_INFINITY;
  let total = 0;
  for (let i = 0; i < size; i++) {
    const value = residuals[i];
    if (value < base) base = value;
    if (value > top) top = value;
    total += value;
  }
  let width = bitsFor(top - base);
  let patched = false;
  // Only a span far beyond the usual deviation can be worth patching; what stands at its ends tells.
  if (width > 1 && spreadAround(total / size, size) * 6 < top - base) {
    const found = bestWindow(size, base, width);
    if (found.gain > 0) {
      base = found.base;
      width = found.width;
      patched = true;
    }
  }
  out.zigzag(base);
  out.byte(patched ? width | 128 : width);
  if (patched) writeOutliers(out, size, base, width);
  for (let i = 0; i < size; i++) residuals[i] -= base;
  pack(out, size, width);
}

/** Puts the lowest values of a block, rising, and its highest, falling, where they are looked for. */
function findEnds(size: number): void {
  const last = ENDS - 1;
  lowest.fill(Number.POSITIVE_INFINITY);
  highest.fill(Number.NEGATIVE_INFINITY);
  for (let i = 0; i < size; i++) {
    const value = residuals[i];
    if (value < lowest[last]) {
      let place = last;
      for (; place > 0 && lowest[place - 1] > value; place--) lowest[place] = lowest[place - 1];
      lowest[place] = value;
    }
    if (value > highest[last]) {
      let place = last;
      for (; place > 0 && highest[place - 1] < value; place--) highest[place] = highest[place - 1];
      highest[place] = value;
    }
  }
}

/** The base and width that leave at most MAX_OUTLIERS outside: time and again the value goes that stands farther off. */
function bestWindow(size: number, base: number, width: number): { base: number; width: number; gain: number } {
  findEnds(size);
  const best = { base, width, gain: 0 };
  const most = Math.min(MAX_OUTLIERS, size - 1);
  /** How many are outside at either end. */
  let below = 0;
  let above = 0;
  for (let outside = 1; outside <= most; outside++) {
    if (lowest[below + 1] - lowest[below] > highest[above] - highest[above + 1]) below++;
    else above++;
    const narrow = bitsFor(highest[above] - lowest[below]);
    const gain = (width - narrow) * size - outside * (16 + width) - 8;
    if (gain <= best.gain) continue;
    best.base = lowest[below];
    best.width = narrow;
    best.gain = gain;
  }
  return best;
}

function writeOutliers(out: ByteWriter, size: number, base: number, width: number): void {
  const limit = 2 ** width;
  let outliers = 0;
  for (let i = 0; i < size; i++) if (residuals[i] < base || residuals[i] - base >= limit) outliers++;
  out.byte(outliers);
  for (let i = 0; i < size; i++) {
    if (residuals[i] >= base && residuals[i] - base < limit) continue;
    out.byte(i);
    const far = residuals[i] - base;
    out.byte(far < 0 ? 1 : 0);
    out.varint(Math.abs(far));
    residuals[i] = base;
  }
}

function pack(out: ByteWriter, size: number, width: number): void {
  if (width <= 32) {
    out.bits(residuals, size, width);
    return;
  }
  for (let i = 0; i < size; i++) {
    high[i] = Math.floor(residuals[i] / 0x100000000);
    low[i] = residuals[i] - high[i] * 0x100000000;
  }
  out.bits(low, size, 32);
  out.bits(high, size, width - 32);
}

/** Reads `count` integers into `out` from `offset` on. */
export function readInts(input: ByteReader, out: Float64Array, count: number, offset = 0): void {
  if (count === 0) return;
  const head = input.byte();
  if (head === CONSTANT) {
    out.fill(input.zigzag(), offset, offset + count);
    return;
  }
  const order = head & 3;
  if (head > (PACKED | 2) || order === 3) throw new StripError(`unknown integer column ${head}`);
  if (head & PACKED) {
    for (let i = 0; i < order && i < count; i++) out[offset + i] = input.zigzag();
    for (let from = order; from < count; from += BLOCK) {
      readBlock(input, out, offset + from, Math.min(BLOCK, count - from));
    }
  } else input.zigzags(out, offset, count);
  if (order === 1) sumOnce(out, offset, count);
  else if (order === 2) sumTwice(out, offset, count);
}

function sumOnce(out: Float64Array, offset: number, count: number): void {
  let value = 0;
  for (let i = offset; i < offset + count; i++) {
    value += out[i];
    out[i] = value;
  }
}

function sumTwice(out: Float64Array, offset: number, count: number): void {
  let value = out[offset];
  let slope = 0;
  for (let i = offset + 1; i < offset + count; i++) {
    slope += out[i];
    value += slope;
    out[i] = value;
  }
}

function readBlock(input: ByteReader, out: Float64Array, offset: number, size: number): void {
  const base = input.zigzag();
  const head = input.byte();
  const width = head & 127;
  if (width > 54) throw new StripError(`block of ${width} bits`);
  const outliers: number[] = [];
  if (head & 128) {
    const many = input.byte();
    for (let i = 0; i < many; i++) {
      const place = input.byte();
      if (place >= size) throw new StripError(`outlier ${place} in a block of ${size}`);
      const negative = input.byte();
      const far = input.varint();
      outliers.push(place, base + (negative ? -far : far));
    }
  }
  if (width <= 32) input.bits(out, offset, size, width, base);
  else {
    input.bits(low, 0, size, 32, 0);
    input.bits(high, 0, size, width - 32, 0);
    for (let i = 0; i < size; i++) out[offset + i] = high[i] * 0x100000000 + low[i] + base;
  }
  for (let i = 0; i < outliers.length; i += 2) out[offset + outliers[i]] = outliers[i + 1];
}
