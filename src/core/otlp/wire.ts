/** A request that is not the protobuf message it claims to be. */
export class WireError extends Error {
  override name = "WireError";
}

const decoder = new TextDecoder();
/** Bytes up to which a text is put together here: longer ones are decoded faster, and into one piece. */
const SHORT = 24;

/** Milliseconds and the nanoseconds inside the millisecond of the time read last. */
export interface Instant {
  ms: number;
  ns: number;
}

/** Reads protobuf primitives (protobuf encoding guide) from one buffer; every length is checked. */
export class WireReader {
  readonly bytes: Uint8Array;
  readonly data: DataView;
  at: number;
  /** Types of the attribute values read last that plain values do not say. */
  readonly odd: string[] = [];

  constructor(bytes: Uint8Array) {
    this.bytes = bytes;
    this.data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    this.at = 0;
  }

  fail(what: string): never {
    throw new WireError(`${what} at byte ${this.at}`);
  }

  /** A varint that fits 32 bits: tags, lengths, small enums. Higher bits are dropped, as the encoding guide says. */
  uint32(): number {
    const { bytes } = this;
    let value = 0;
    for (let shift = 0; shift < 70; shift += 7) {
      const byte = bytes[this.at++];
      if (byte === undefined) this.fail("message ends inside a number");
      if (shift < 32) value |= (byte & 127) << shift;
      if (byte < 128) return value >>> 0;
    }
    return this.fail("number of more than 10 bytes");
  }

  sint32(): number {
    const value = this.uint32();
    return (value >>> 1) ^ -(value & 1);
  }

  /** A varint as an unsigned 64-bit integer, to the nearest double. */
  uint64(): number {
    const { bytes } = this;
    const first = bytes[this.at];
    if (first < 128) {
      this.at++;
      return first;
    }
    const second = bytes[this.at + 1];
    if (second < 128) {
      this.at += 2;
      return (first & 127) | (second << 7);
    }
    let low = 0;
    let factor = 1;
    for (let i = 0; i < 10; i++) {
      const byte = bytes[this.at++];
      if (byte === undefined) this.fail("message ends inside a number");
      low += (byte & 127) * factor;
      if (byte < 128) return low;
      factor *= 128;
    }
    return this.fail("number of more than 10 bytes");
  }

  /** A varint as a signed 64-bit integer in two's complement. */
  int64(): bigint {
    let low = 0n;
    for (let shift = 0n; shift < 70n; shift += 7n) {
      const byte = this.bytes[this.at++];
      if (byte === undefined) this.fail("message ends inside a number");
      low |= BigInt(byte & 127) << shift;
      if (byte < 128) return BigInt.asIntN(64, low);
    }
    return this.fail("number of more than 10 bytes");
  }

  private need(size: number): void {
    if (this.at + size > this.bytes.length) this.fail(`message ends early: ${size} more bytes expected`);
  }

  double(): number {
    this.need(8);
    const value = this.data.getFloat64(this.at, true);
    this.at += 8;
    return value;
  }

  fixed64(): number {
    this.need(8);
    const value = this.data.getUint32(this.at, true) + this.data.getUint32(this.at + 4, true) * 0x100000000;
    this.at += 8;
    return value;
  }

  sfixed64(): number {
    this.need(8);
    const value = this.data.getUint32(this.at, true) + this.data.getInt32(this.at + 4, true) * 0x100000000;
    this.at += 8;
    return value;
  }

  /** Nanoseconds since 1970 as fixed64, split without loss: 2^32 ns = 4294 ms + 967296 ns. */
  instant(into: Instant): void {
    this.need(8);
    const low = this.data.getUint32(this.at, true);
    const high = this.data.getUint32(this.at + 4, true);
    this.at += 8;
    const rest = high * 967296 + low;
    const ms = Math.floor(rest / 1e6);
    into.ms = high * 4294 + ms;
    into.ns = rest - ms * 1e6;
  }

  /** The end of a length-delimited field that starts here. */
  end(limit: number): number {
    const size = this.uint32();
    const end = this.at + size;
    if (end > limit) this.fail(`field of ${size} bytes reaches beyond its message`);
    return end;
  }

  text(end: number): string {
    const { bytes, at } = this;
    if (end - at > SHORT) {
      this.at = end;
      return decoder.decode(bytes.subarray(at, end));
    }
    let value = "";
    for (let i = at; i < end; i++) {
      const byte = bytes[i];
      if (byte >= 128) {
        value = decoder.decode(bytes.subarray(at, end));
        break;
      }
      value += String.fromCharCode(byte);
    }
    this.at = end;
    return value;
  }

  hex(end: number): string {
    let value = "";
    for (; this.at < end; this.at++) value += this.bytes[this.at].toString(16).padStart(2, "0");
    return value;
  }

  /** Passes over a field of an unknown number. */
  skip(tag: number, limit: number): void {
    switch (tag & 7) {
      case 0:
        this.uint32();
        break;
      case 1:
        this.at += 8;
        break;
      case 2:
        this.at = this.end(limit);
        break;
      case 5:
        this.at += 4;
        break;
      default:
        this.fail(`unknown wire type ${tag & 7}`);
    }
    if (this.at > limit) this.fail("field reaches beyond its message");
  }
}
