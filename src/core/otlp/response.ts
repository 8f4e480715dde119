import { ByteWriter } from "../strip/bytes";
import type { Signal } from "./signals";

/** Answers of the OTLP/HTTP receiver, in the request's encoding (OTLP specification, "OTLP/HTTP Response"). */

const encoder = new TextEncoder();

/** Field 1 as a number (left out where it is 0) and field 2 as text: the shape of both answers. */
function numberAndText(number: number, text: string): Uint8Array {
  const out = new ByteWriter();
  if (number !== 0) {
    out.byte(8);
    out.varint(number);
  }
  const bytes = encoder.encode(text);
  out.byte(18);
  out.varint(bytes.length);
  out.append(bytes);
  return out.finish();
}

/** What the partial success of a signal calls what was refused; in protobuf, all have the number 1. */
const REFUSED: Record<Signal, string> = {
  metrics: "rejectedDataPoints",
  traces: "rejectedSpans",
  logs: "rejectedLogRecords",
};

/** Export…ServiceResponse: empty where all went in, else partial_success. */
export function successProtobuf(rejected: number, message: string): Uint8Array {
  if (rejected === 0 && message === "") return new Uint8Array(0);
  const partial = numberAndText(rejected, message);
  const out = new ByteWriter();
  out.byte(10);
  out.varint(partial.length);
  out.append(partial);
  return out.finish();
}

export function successJson(signal: Signal, rejected: number, message: string): string {
  if (rejected === 0 && message === "") return "{}";
  return JSON.stringify({ partialSuccess: { [REFUSED[signal]]: String(rejected), errorMessage: message } });
}

/** google.rpc.Status: code and message. */
export function statusProtobuf(code: number, message: string): Uint8Array {
  return numberAndText(code, message);
}

export function statusJson(code: number, message: string): string {
  return JSON.stringify({ code, message });
}
