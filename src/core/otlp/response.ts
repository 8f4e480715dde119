/** Answers of the OTLP/HTTP receiver, in the request's encoding (OTLP specification, "OTLP/HTTP Response"). */

const encoder = new TextEncoder();

function varint(value: number): number[] {
  const bytes: number[] = [];
  let rest = value;
  while (rest >= 128) {
    bytes.push((rest % 128) | 128);
    rest = Math.floor(rest / 128);
  }
  bytes.push(rest);
  return bytes;
}

function delimited(tag: number, body: Uint8Array | number[]): Uint8Array {
  return Uint8Array.from([tag, ...varint(body.length), ...body]);
}

/** ExportMetricsServiceResponse: empty where all went in, else partial_success. */
export function successProtobuf(rejected: number, message: string): Uint8Array {
  if (rejected === 0 && message === "") return new Uint8Array(0);
  const count = rejected === 0 ? [] : [8, ...varint(rejected)];
  return delimited(10, [...count, ...delimited(18, encoder.encode(message))]);
}

export function successJson(rejected: number, message: string): string {
  if (rejected === 0 && message === "") return "{}";
  return JSON.stringify({ partialSuccess: { rejectedDataPoints: String(rejected), errorMessage: message } });
}

/** google.rpc.Status: code and message. */
export function statusProtobuf(code: number, message: string): Uint8Array {
  return Uint8Array.from([8, ...varint(code), ...delimited(18, encoder.encode(message))]);
}

export function statusJson(code: number, message: string): string {
  return JSON.stringify({ code, message });
}
