import type { TelemetryRecord } from "./records";
import { isSpan } from "./records";

/**
 * Sampling by share, consistently: every span of a trace and every log record that names it is decided on alike, by
 * whoever decides, and a smaller share keeps a part of what a larger one keeps (OpenTelemetry, "TraceState: Probability
 * Sampling": a trace is kept where its randomness is at least the threshold).
 */

/** Randomness and thresholds are numbers below 2^56. */
const BITS = 2n ** 56n;

/** The part of traces that a share turns away, as a threshold of 14 hex digits. */
export function thresholdOf(share: number): bigint {
  const kept = BigInt(Math.round(share * 2 ** 52)) * 16n;
  return BITS - kept;
}

/** The sub-keys of the tracestate's entry "ot". */
function otOf(state: string): Map<string, string> {
  const entry = state
    .split(",")
    .map((one) => one.trim())
    .find((one) => one.startsWith("ot="));
  const pairs = entry ? entry.slice(3).split(";") : [];
  return new Map(
    pairs.map((pair) => {
      const at = pair.indexOf(":");
      return [pair.slice(0, at), pair.slice(at + 1)];
    }),
  );
}

/** 56 bits that stay the same for a text: two runs of FNV-1a with a last mix, so that near texts lie far apart. */
function randomOf(text: string): bigint {
  const run = (from: number) => {
    let hash = from;
    for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
    hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
    hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
    return (hash ^ (hash >>> 16)) >>> 0;
  };
  return ((BigInt(run(0x811c9dc5)) << 32n) | BigInt(run(0x5bd1e995))) % BITS;
}

/** The randomness of a record: that of its trace, else of what it says and when. */
export function randomnessOf(record: TelemetryRecord): bigint {
  const { traceId } = record;
  if (traceId === "") return randomOf(isSpan(record) ? "" : `${record.ms} ${record.ns} ${JSON.stringify(record.body)}`);
  const said = isSpan(record) ? otOf(record.state).get("rv") : undefined;
  return said && /^[0-9a-f]{14}$/.test(said) ? BigInt(`0x${said}`) : BigInt(`0x${traceId.slice(-14)}`);
}

/** The tracestate of a span that a threshold let pass: the higher threshold of what it says and this. */
export function withThreshold(state: string, threshold: bigint): string {
  if (threshold === 0n) return state;
  const ot = otOf(state);
  const before = ot.get("th");
  const known = before && /^[0-9a-f]{1,14}$/.test(before) ? BigInt(`0x${before.padEnd(14, "0")}`) : 0n;
  if (known >= threshold) return state;
  ot.set("th", threshold.toString(16).padStart(14, "0").replace(/0+$/, ""));
  const others = state
    .split(",")
    .map((one) => one.trim())
    .filter((one) => one !== "" && !one.startsWith("ot="));
  return [`ot=${[...ot].map(([key, value]) => `${key}:${value}`).join(";")}`, ...others].join(",");
}

/** Whether a share keeps a record, and the record as it goes on; null where it does not. */
export function sampled<T extends TelemetryRecord>(record: T, share: number): T | null {
  if (share >= 1) return record;
  if (share <= 0) return null;
  const threshold = thresholdOf(share);
  if (randomnessOf(record) < threshold) return null;
  return isSpan(record) ? { ...record, state: withThreshold(record.state, threshold) } : record;
}
