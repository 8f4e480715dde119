/** A payload that is not what it says it is. */
export class StripError extends Error {
  override name = "StripError";
}

const scratch = new DataView(new ArrayBuffer(8));

/** Grows as it is written to. Integers are little-endian; varints hold up to 2^53. */
export class ByteWriter {
  private bytes: Uint8Array;
  length = 0;

  constructor(capacity = 1024) {
    this.bytes = new Uint8Array(capacity);
  }

  private room(more: number): void {
    const need = this.length + more;
    if (need <= this.bytes.length) return;
    const grown = new Uint8Array(Math.max(need, this.bytes.length * 2));
    grown.set(this.bytes.subarray(0, this.length));
    this.bytes = grown;
  }

  byte(value: number): void {
    this.room(1);
    this.bytes[this.length++] = value;
  }

  varint(value: number): void {
    this.room(8);
    let rest = value;
    while (rest >= 0x10000000) {
      this.bytes[this.length++] = (rest % 128) | 128;
      rest = Math.floor(rest / 128);
    }
    while (rest >= 128) {
      this.bytes[this.length++] = (rest & 127) | 128;
      rest >>>= 7;
    }
    this.bytes[this.length++] = rest;
  }

  /** Signed varint: the sign in the lowest bit. |value| up to 2^52. */
  zigzag(value: number): void {
    this.varint(value < 0 ? -value * 2 - 1 : value * 2);
  }

  double(value: number): void {
    this.room(8);
    scratch.setFloat64(0, value, true);
    for (let i = 0; i < 8; i++) this.bytes[this.length++] = scratch.getUint8(i);
  }

  uint32(value: number): void {
    this.room(4);
    for (let i = 0; i < 4; i++) this.bytes[this.length++] = (value >>> (8 * i)) & 255;
  }

  append(other: Uint8Array): void {
    this.room(other.length);
    this.bytes.set(other, this.length);
    this.length += other.length;
  }

  /** Packs `count` integers below 2^width (at most 32) into consecutive bits, lowest bit first. */
  bits(values: Float64Array, count: number, width: number): void {
    const size = Math.ceil((count * width) / 8);
    this.room(size);
    const { bytes } = this;
    let at = this.length;
    let filled = 0;
    let held = 0;
    if (width <= 24) {
      for (let i = 0; i < count; i++) {
        held |= values[i] << filled;
        filled += width;
        while (filled >= 8) {
          bytes[at++] = held & 255;
          held >>>= 8;
          filled -= 8;
        }
      }
    } else {
      for (let i = 0; i < count; i++) {
        held += values[i] * (1 << filled);
        filled += width;
        while (filled >= 8) {
          bytes[at++] = held % 256;
          held = Math.floor(held / 256);
          filled -= 8;
        }
      }
    }
    if (filled > 0) bytes[at++] = held & 255;
    this.length += size;
  }

  /** A view of what was written so far; later writes may move it. */
  view(): Uint8Array {
    return this.bytes.subarray(0, this.length);
  }

  /** A copy of what was written. */
  finish(): Uint8Array {
    return this.bytes.slice(0, this.length);
  }
}

/** Reads what ByteWriter wrote. Everything beyond the end is a StripError. */
export class ByteReader {
  readonly bytes: Uint8Array;
  private readonly data: DataView;
  at: number;
  readonly end: number;

  /** `bytes` must be followed by at least 4 readable bytes in its buffer, or be copied by `padded`. */
  constructor(bytes: Uint8Array, at = 0) {
    this.bytes = bytes;
    this.data = new DataView(bytes.buffer, bytes.byteOffset);
    this.at = at;
    this.end = bytes.length;
  }

  need(more: number): void {
    if (this.at + more > this.end) throw new StripError(`strip ends early: ${more} bytes wanted at ${this.at}`);
  }

  byte(): number {
    this.need(1);
    return this.bytes[this.at++];
  }

  varint(): number {
    let value = 0;
    let factor = 1;
    for (let i = 0; i < 8; i++) {
      const byte = this.byte();
      value += (byte & 127) * factor;
      if (byte < 128) return value;
      factor *= 128;
    }
    throw new StripError(`number too long at ${this.at}`);
  }

  /** A varint that counts things of which at most `most` can be there. */
  size(most: number, what: string): number {
    const value = this.varint();
    if (value > most) throw new StripError(`${value} ${what}, more than ${most}`);
    return value;
  }

  zigzag(): number {
    const value = this.varint();
    return value % 2 === 0 ? value / 2 : -(value + 1) / 2;
  }

  /** Reads `count` signed varints into `out` from `offset` on; most take one or two bytes. */
  zigzags(out: Float64Array, offset: number, count: number): void {
    const { bytes } = this;
    let { at } = this;
    for (let i = offset; i < offset + count; i++) {
      const first = bytes[at];
      if (first < 128) {
        out[i] = (first >>> 1) ^ -(first & 1);
        at++;
        continue;
      }
      const second = bytes[at + 1];
      if (second < 128) {
        const value = (first & 127) | (second << 7);
        out[i] = (value >>> 1) ^ -(value & 1);
        at += 2;
        continue;
      }
      this.at = at;
      out[i] = this.zigzag();
      at = this.at;
    }
    this.at = at;
  }

  double(): number {
    this.need(8);
    const value = this.data.getFloat64(this.at, true);
    this.at += 8;
    return value;
  }

  uint32(): number {
    this.need(4);
    const value = this.data.getUint32(this.at, true);
    this.at += 4;
    return value;
  }

  /** Unpacks `count` integers of `width` bits (at most 32), adding `base` and writing from `out[offset]` on. */
  bits(out: Float64Array, offset: number, count: number, width: number, base: number): void {
    this.need(Math.ceil((count * width) / 8));
    if (width === 0) out.fill(base, offset, offset + count);
    else if (width === 8) this.unpackBytes(out, offset, count, base);
    else if (width <= 25) this.unpackNarrow(out, offset, count, width, base);
    else this.unpackWide(out, offset, count, width, base);
    this.at += Math.ceil((count * width) / 8);
  }

  private unpackBytes(out: Float64Array, offset: number, count: number, base: number): void {
    const { bytes, at } = this;
    for (let i = 0; i < count; i++) out[offset + i] = bytes[at + i] + base;
  }

  /**
   * Eight values of a width fill as many bytes as they have bits, so within each eight, places and shifts are the same
   * throughout a block and are worked out once.
   */
  private unpackNarrow(out: Float64Array, offset: number, count: number, width: number, base: number): void {
    const { data } = this;
    const mask = (1 << width) - 1;
    const [p1, p2, p3, p4] = [width >>> 3, (2 * width) >>> 3, (3 * width) >>> 3, (4 * width) >>> 3];
    const [p5, p6, p7] = [(5 * width) >>> 3, (6 * width) >>> 3, (7 * width) >>> 3];
    const [s1, s2, s3, s4] = [width & 7, (2 * width) & 7, (3 * width) & 7, (4 * width) & 7];
    const [s5, s6, s7] = [(5 * width) & 7, (6 * width) & 7, (7 * width) & 7];
    let { at } = this;
    let i = offset;
    for (const whole = offset + (count & ~7); i < whole; i += 8) {
      out[i] = (data.getUint32(at, true) & mask) + base;
      out[i + 1] = ((data.getUint32(at + p1, true) >>> s1) & mask) + base;
      out[i + 2] = ((data.getUint32(at + p2, true) >>> s2) & mask) + base;
      out[i + 3] = ((data.getUint32(at + p3, true) >>> s3) & mask) + base;
      out[i + 4] = ((data.getUint32(at + p4, true) >>> s4) & mask) + base;
      out[i + 5] = ((data.getUint32(at + p5, true) >>> s5) & mask) + base;
      out[i + 6] = ((data.getUint32(at + p6, true) >>> s6) & mask) + base;
      out[i + 7] = ((data.getUint32(at + p7, true) >>> s7) & mask) + base;
      at += width;
    }
    let bit = at * 8;
    for (; i < offset + count; i++) {
      out[i] = ((data.getUint32(bit >>> 3, true) >>> (bit & 7)) & mask) + base;
      bit += width;
    }
  }

  private unpackWide(out: Float64Array, offset: number, count: number, width: number, base: number): void {
    const { data, bytes } = this;
    const size = 2 ** width;
    let bit = this.at * 8;
    for (let i = 0; i < count; i++) {
      const place = bit >>> 3;
      const shift = bit & 7;
      let value = data.getUint32(place, true) >>> shift;
      if (shift + width > 32) value += bytes[place + 4] * 2 ** (32 - shift);
      out[offset + i] = (value % size) + base;
      bit += width;
    }
  }
}

/** The same bytes with spare room behind them, as ByteReader needs. */
export function padded(bytes: Uint8Array): Uint8Array {
  const room = bytes.buffer.byteLength - bytes.byteOffset - bytes.length;
  if (room >= 8) return bytes;
  const copy = new Uint8Array(bytes.length + 8);
  copy.set(bytes);
  return copy.subarray(0, bytes.length);
}
