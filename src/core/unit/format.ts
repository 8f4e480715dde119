import { comparable, lenientUnit, parseUnit, type Unit } from "./unit";

/** Values in a person's form: 0.0123 s is "12.3 ms", 5 GiB is "5 GiB", 0.004 of a share is "0.4 %". */

/** How the values of one chart are written: each is multiplied by `factor` and followed by `suffix`. */
export interface Form {
  factor: number;
  suffix: string;
}

const SECOND = parseUnit("s");
const BYTE = parseUnit("By");

const TIMES: [number, string][] = [
  [86400, "d"],
  [3600, "h"],
  [60, "min"],
  [1, "s"],
  [1e-3, "ms"],
  [1e-6, "µs"],
  [1e-9, "ns"],
];
const SIZES: [number, string][] = [
  [1024 ** 4, "TiB"],
  [1024 ** 3, "GiB"],
  [1024 ** 2, "MiB"],
  [1024, "KiB"],
  [1, "B"],
];
/** From which size on counts are told in what: thousands only from ten thousand on, where figures would be many. */
const COUNTS: { from: number; is: number; suffix: string }[] = [
  { from: 1e9, is: 1e9, suffix: "G" },
  { from: 1e6, is: 1e6, suffix: "M" },
  { from: 1e4, is: 1e3, suffix: "k" },
];

function ladder(steps: readonly [number, string][], size: number, scale: number): Form {
  for (const [step, suffix] of steps) if (size * scale >= step) return { factor: scale / step, suffix };
  const [step, suffix] = steps[steps.length - 1];
  return { factor: scale / step, suffix };
}

function annotation(unit: Unit): string {
  const names = Object.entries(unit.powers);
  const top = names.filter(([, power]) => power > 0).map(([name]) => name.replace(/[{}]/g, ""));
  const under = names.filter(([, power]) => power < 0).map(([name]) => `/${name.replace(/[{}]/g, "")}`);
  return top.join("·") + under.join("");
}

/**
 * The form for values of about `size` (the largest absolute value of a chart, say) in a UCUM unit.
 *
 * @param share whether a value without unit is a part of a whole and so a percentage
 */
export function formOf(code: string, size: number, share = false): Form {
  const unit = lenientUnit(code);
  const magnitude = Math.abs(size);
  if (comparable(unit, SECOND)) return ladder(TIMES, magnitude || 1, unit.scale);
  if (comparable(unit, BYTE)) return ladder(SIZES, magnitude, unit.scale);
  if (comparable(unit, parseUnit("By/s"))) {
    const form = ladder(SIZES, magnitude, unit.scale);
    return { factor: form.factor, suffix: `${form.suffix}/s` };
  }
  if (Object.keys(unit.powers).length === 0) {
    if (share || code === "%") return { factor: unit.scale * 100, suffix: "%" };
    const counted = COUNTS.find(({ from }) => magnitude >= from);
    return counted ? { factor: 1 / counted.is, suffix: counted.suffix } : { factor: 1, suffix: "" };
  }
  const counted = COUNTS.find(({ from }) => magnitude >= from);
  const words = annotation(unit);
  const per = words.startsWith("/") ? words : ` ${words}`;
  if (!counted) return { factor: 1, suffix: words };
  return { factor: 1 / counted.is, suffix: counted.suffix + per };
}

/** All forms that values in a unit can be written in, the smallest first; the first that fits is usually taken. */
export function formsOf(code: string, share = false): Form[] {
  const unit = lenientUnit(code);
  const each = (steps: readonly [number, string][], end = "") =>
    [...steps].reverse().map(([step, suffix]) => ({ factor: unit.scale / step, suffix: suffix + end }));
  if (comparable(unit, SECOND)) return each(TIMES);
  if (comparable(unit, BYTE)) return each(SIZES);
  if (comparable(unit, parseUnit("By/s"))) return each(SIZES, "/s");
  const plain = formOf(code, 1);
  const counted = COUNTS.map(({ from }) => formOf(code, from)).reverse();
  if (Object.keys(unit.powers).length > 0) return [plain, ...counted];
  const percent = { factor: unit.scale * 100, suffix: "%" };
  if (share || code === "%") return [percent, { factor: unit.scale, suffix: "" }];
  return [plain, percent, ...counted];
}

/** Figures behind the point that a number of a size is written with: three that matter, or more where it is large. */
export function placesOf(size: number): number {
  if (size >= 100 || size === 0) return 0;
  return size >= 10 ? 1 : size >= 1 ? 2 : Math.min(8, 2 - Math.floor(Math.log10(size)));
}

/** A number with three significant digits or more, never in exponent form between a millionth and a billion. */
export function digits(value: number): string {
  if (!Number.isFinite(value)) return Number.isNaN(value) ? "not a number" : value > 0 ? "∞" : "−∞";
  const size = Math.abs(value);
  if (size === 0) return "0";
  if (size < 1e-6 || size >= 1e15) return value.toExponential(2).replace("-", "−");
  const text = size >= 1000 ? Math.round(value).toLocaleString("en-GB") : String(Number(value.toFixed(placesOf(size))));
  return text.replace("-", "−");
}

/** One value with its unit: "412 ms", "8.1 /s", "0.42 %". */
export function formatValue(value: number | null, code: string, share = false): string {
  if (value === null) return "no data";
  const { factor, suffix } = formOf(code, value, share);
  const text = digits(value * factor);
  return suffix === "" ? text : `${text} ${suffix}`;
}
