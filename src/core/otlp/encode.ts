import { ByteWriter } from "../strip/bytes";
import { type Field, isMessage, type MessageName, messageOf, type Scalar, wireTypeOf } from "./messages";

/** Writes messages in the protobuf encoding (protobuf encoding guide). */

const text = new TextEncoder();
const scratch = new DataView(new ArrayBuffer(8));

const PACKED: ReadonlySet<string> = new Set<Scalar>(["double", "fixed64", "sfixed64", "uint64", "int64"]);
function tag(out: ByteWriter, number: number, wire: number): void {
  out.varint(number * 8 + wire);
}

function varint64(out: ByteWriter, value: bigint): void {
  let rest = BigInt.asUintN(64, value);
  while (rest >= 128n) {
    out.byte(Number(rest & 127n) | 128);
    rest >>= 7n;
  }
  out.byte(Number(rest));
}

function whole(out: ByteWriter, value: unknown): void {
  const number = Number(value);
  if (number >= 0 && Number.isSafeInteger(number)) out.varint(number);
  else varint64(out, BigInt(value as string));
}

function eight(out: ByteWriter, value: unknown): void {
  scratch.setBigUint64(0, BigInt.asUintN(64, BigInt(value as string)), true);
  for (let i = 0; i < 8; i++) out.byte(scratch.getUint8(i));
}

function sized(out: ByteWriter, bytes: Uint8Array): void {
  out.varint(bytes.length);
  out.append(bytes);
}

function fromHex(value: string): Uint8Array {
  const bytes = new Uint8Array(value.length / 2);
  for (let i = 0; i < bytes.length; i++) bytes[i] = Number.parseInt(value.slice(2 * i, 2 * i + 2), 16);
  return bytes;
}

function scalar(out: ByteWriter, type: Scalar, value: unknown): void {
  switch (type) {
    case "string":
      return sized(out, text.encode(value as string));
    case "bytes":
      return sized(
        out,
        Uint8Array.from(atob(value as string), (one) => one.charCodeAt(0)),
      );
    case "hex":
      return sized(out, fromHex(value as string));
    case "bool":
      return out.byte(value ? 1 : 0);
    case "double":
      return out.double(Number(value));
    case "fixed64":
    case "sfixed64":
      return eight(out, value);
    case "fixed32":
      return out.uint32(Number(value));
    case "sint32":
      return out.zigzag(Number(value));
    default:
      return whole(out, value);
  }
}

function single(out: ByteWriter, { number, type }: Field, value: unknown): void {
  if (isMessage(type)) {
    tag(out, number, 2);
    sized(out, encodeMessage(type, value as object));
    return;
  }
  tag(out, number, wireTypeOf(type));
  scalar(out, type, value);
}

/** Writes a message that is given in the form of OTLP/JSON. Fields that the message does not know are left out. */
export function encodeMessage(name: MessageName, value: object): Uint8Array {
  const out = new ByteWriter(64);
  const { byName } = messageOf(name);
  for (const [key, held] of Object.entries(value)) {
    const field = byName.get(key);
    if (!field || held === undefined || held === null) continue;
    if (!field.repeated) single(out, field, held);
    else if (PACKED.has(field.type)) {
      const inner = new ByteWriter(8 * (held as unknown[]).length + 8);
      for (const one of held as unknown[]) scalar(inner, field.type as Scalar, one);
      tag(out, field.number, 2);
      sized(out, inner.finish());
    } else for (const one of held as unknown[]) single(out, field, one);
  }
  return out.finish();
}
