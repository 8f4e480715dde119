import { Dictionary } from "../../src/core/otlp/dictionary";
import { decodeMetrics } from "../../src/core/otlp/protobuf";
import { Request } from "../../src/core/otlp/testing/schema";
import { alternate, note, perSecond } from "./measure";

const SERIES = 1000;
const TIMES = 20;

function attributes(i: number) {
  const of = (key: string, stringValue: string) => ({ key, value: { stringValue } });
  return [of("depot", `depot-${i % 6}`), of("tool.kind", `kind-${i % 11}`), of("http.route", `/loans/{id}/${i}`)];
}

export function request(kind: "numbers" | "explicit" | "exponential"): Uint8Array {
  const head = { timeUnixNano: "1764000000123456789", startTimeUnixNano: "1763990000000000000" };
  const bounds = [0.005, 0.01, 0.025, 0.05, 0.075, 0.1, 0.25, 0.5, 0.75, 1, 2.5, 5, 7.5];
  const counts = (i: number, size: number) => Array.from({ length: size }, (_, b) => String((i * 31 + b * 7) % 400));
  const total = (list: readonly string[]) => String(list.reduce((sum, value) => sum + Number(value), 0));
  const dataPoints = Array.from({ length: SERIES }, (_, i) => {
    const common = { ...head, attributes: attributes(i) };
    if (kind === "numbers") return { ...common, asInt: String(i * 1000 + 17) };
    const bucketCounts = counts(i, kind === "explicit" ? bounds.length + 1 : 44);
    const measured = { ...common, count: total(bucketCounts), sum: i * 1.5, min: 0.001, max: 7 };
    if (kind === "explicit") return { ...measured, explicitBounds: bounds, bucketCounts };
    return { ...measured, scale: 3, zeroCount: "0", positive: { offset: -40, bucketCounts } };
  });
  const data = { dataPoints, aggregationTemporality: 2 };
  const metric =
    kind === "numbers"
      ? { sum: { ...data, isMonotonic: true } }
      : kind === "explicit"
        ? { histogram: data }
        : { exponentialHistogram: data };
  const resource = { attributes: [{ key: "service.name", value: { stringValue: "loans" } }] };
  return Request.encode(
    Request.fromObject({
      resourceMetrics: [{ resource, scopeMetrics: [{ metrics: [{ name: "m", unit: "s", ...metric }] }] }],
    }),
  ).finish();
}

/** Decoding OTLP against a general protobuf library that only builds its message. */
export async function benchDecode(): Promise<void> {
  for (const [kind, target] of [
    ["numbers", "≥ 6×"],
    ["explicit", "≥ 5×"],
    ["exponential", "≥ 4×"],
  ] as const) {
    const bytes = request(kind);
    const dictionary = new Dictionary();
    const repeat = (work: () => unknown) => () => {
      for (let i = 0; i < TIMES; i++) work();
    };
    const [ours, theirs] = await alternate(
      [
        { name: "ours", run: repeat(() => decodeMetrics(bytes, dictionary)) },
        { name: "protobufjs", run: repeat(() => Request.decode(bytes)) },
      ],
      9,
    );
    const points = SERIES * TIMES;
    note(
      `decode OTLP ${kind}, known series`,
      "protobufjs",
      perSecond(points, ours.ms),
      perSecond(points, theirs.ms),
      theirs.ms / ours.ms,
      target,
    );
  }
}
