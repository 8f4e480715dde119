import {
  type Field,
  isMessage,
  MAX_DEPTH,
  type MessageName,
  messageOf,
  type Plain,
  type PlainValue,
  type Scalar,
  wireTypeOf,
} from "./messages";
import { WireReader } from "./wire";

/** Reads messages in the protobuf encoding into the form of OTLP/JSON. Unknown fields are passed over. */

class MessageReader extends WireReader {
  message(name: MessageName, to: number, depth: number): Plain {
    if (depth > MAX_DEPTH) this.fail("messages nested too deeply");
    const { byNumber } = messageOf(name);
    const found: Plain = {};
    while (this.at < to) {
      const tag = this.uint32();
      const field = byNumber.get(tag >>> 3);
      if (!field || !this.read(found, field, tag, to, depth)) this.skip(tag, to);
    }
    if (this.at > to) this.fail("field reaches beyond its message");
    return found;
  }

  /** @returns false where the wire type is not that of the field */
  private read(into: Plain, { name, type, repeated }: Field, tag: number, limit: number, depth: number): boolean {
    const wire = tag & 7;
    const expected = wireTypeOf(type);
    const packed = repeated && wire === 2 && expected !== 2;
    if (wire !== expected && !packed) return false;
    const add = (value: PlainValue) => {
      if (!repeated) into[name] = value;
      else {
        const list = into[name] as PlainValue[] | undefined;
        if (list) list.push(value);
        else into[name] = [value];
      }
    };
    if (isMessage(type)) add(this.message(type, this.end(limit), depth + 1));
    else if (packed) {
      const end = this.end(limit);
      while (this.at < end) add(this.scalar(type, end));
    } else add(this.scalar(type, limit));
    return true;
  }

  private eight(): bigint {
    if (this.at + 8 > this.bytes.length) this.fail("message ends early: 8 more bytes expected");
    const value = this.data.getBigUint64(this.at, true);
    this.at += 8;
    return value;
  }

  private varint(): bigint {
    let value = 0n;
    for (let shift = 0n; shift < 70n; shift += 7n) {
      const byte = this.bytes[this.at++];
      if (byte === undefined) this.fail("message ends inside a number");
      value |= BigInt(byte & 127) << shift;
      if (byte < 128) return value;
    }
    return this.fail("number of more than 10 bytes");
  }

  private four(): number {
    if (this.at + 4 > this.bytes.length) this.fail("message ends early: 4 more bytes expected");
    const value = this.data.getUint32(this.at, true);
    this.at += 4;
    return value;
  }

  private base64(end: number): string {
    let text = "";
    for (; this.at < end; this.at++) text += String.fromCharCode(this.bytes[this.at]);
    return btoa(text);
  }

  private scalar(type: Scalar, limit: number): PlainValue {
    switch (type) {
      case "string":
        return this.text(this.end(limit));
      case "hex":
        return this.hex(this.end(limit));
      case "bytes":
        return this.base64(this.end(limit));
      case "bool":
        return this.uint32() !== 0;
      case "double":
        return this.double();
      case "fixed64":
        return String(this.eight());
      case "sfixed64":
        return String(BigInt.asIntN(64, this.eight()));
      case "int64":
        return String(BigInt.asIntN(64, this.varint()));
      case "uint64":
        return String(BigInt.asUintN(64, this.varint()));
      case "fixed32":
        return this.four();
      case "sint32":
        return this.sint32();
      default:
        return this.uint32();
    }
  }
}

/** @throws WireError where the bytes are no such message */
export function decodeMessage(name: MessageName, bytes: Uint8Array): Plain {
  const reader = new MessageReader(bytes);
  return reader.message(name, bytes.length, 0);
}
