import { noteExact, plainDouble, plainInteger } from "../metric/exact";
import type { Attributes, AttributeValue } from "../metric/model";
import type { WireReader } from "./wire";

const MAX_DEPTH = 8;

function base64(bytes: Uint8Array): string {
  let text = "";
  for (const byte of bytes) text += String.fromCharCode(byte);
  return btoa(text);
}

/** Reads an AnyValue that ends at `end` (opentelemetry-proto, common v1). Bytes become base64 text. */
export function readAnyValue(reader: WireReader, end: number, depth = 0): AttributeValue {
  if (depth > MAX_DEPTH) reader.fail("attribute value nested too deeply");
  let value: AttributeValue = "";
  while (reader.at < end) {
    const tag = reader.uint32();
    switch (tag) {
      case 10:
        value = reader.text(reader.end(end));
        break;
      case 16:
        value = reader.uint32() !== 0;
        break;
      case 24:
        value = plainInteger(reader.int64(), reader.odd);
        break;
      case 33:
        value = plainDouble(reader.double(), reader.odd);
        break;
      case 42: {
        const listEnd = reader.end(end);
        const list: AttributeValue[] = [];
        while (reader.at < listEnd) {
          const inner = reader.uint32();
          if (inner === 10) list.push(readAnyValue(reader, reader.end(listEnd), depth + 1));
          else reader.skip(inner, listEnd);
        }
        value = list;
        break;
      }
      case 50: {
        const mapEnd = reader.end(end);
        const map: Attributes = {};
        while (reader.at < mapEnd) {
          const inner = reader.uint32();
          if (inner === 10) readKeyValue(reader, reader.end(mapEnd), map, depth + 1);
          else reader.skip(inner, mapEnd);
        }
        value = map;
        break;
      }
      case 58: {
        const bytesEnd = reader.end(end);
        value = base64(reader.bytes.subarray(reader.at, bytesEnd));
        reader.at = bytesEnd;
        break;
      }
      default:
        reader.skip(tag, end);
    }
  }
  return value;
}

/** Reads a KeyValue that ends at `end` into an attribute set; of a repeated key the last stays. */
export function readKeyValue(reader: WireReader, end: number, into: Attributes, depth = 0): void {
  let key = "";
  let value: AttributeValue = "";
  const { odd } = reader;
  const before = odd.length;
  while (reader.at < end) {
    const tag = reader.uint32();
    if (tag === 10) key = reader.text(reader.end(end));
    else if (tag === 18) value = readAnyValue(reader, reader.end(end), depth);
    else reader.skip(tag, end);
  }
  Object.defineProperty(into, key, { value, writable: true, enumerable: true, configurable: true });
  // Of what is nested, the outermost attribute bears the note.
  if (depth === 0) noteExact(into, key, odd.splice(before).join(""));
}
