import { digits, type Form, formOf, formsOf } from "../../unit/format";
import { comparable, lenientUnit, parseUnit, UnitError } from "../../unit/unit";
import type { PlateReading } from "../sheet";

/** Values as a plate writes them: in the form that was chosen, or the one that fits. */

export interface Writer extends Form {
  /** A value in the reading's unit, without what stands behind it. */
  figure: (value: number) => string;
  /** A value with its unit: "412 ms". */
  text: (value: number | null | undefined) => string;
}

/** What is written where there is no value. */
export const NO_VALUE = "—";

/**
 * @param answer unit of the values (UCUM), and whether they are parts of a whole
 * @param size the largest absolute value that is written
 */
export function writerFor(
  answer: { unit: string; share: boolean },
  { unit, decimals }: Pick<PlateReading, "unit" | "decimals">,
  size: number,
): Writer {
  const chosen = unit === "" ? undefined : formsOf(answer.unit, answer.share).find(({ suffix }) => suffix === unit);
  // Who wants figures behind the point of a count wants it whole, and not in thousands.
  const counted = decimals !== null && !isScaled(answer.unit);
  const form = chosen ?? formOf(answer.unit, counted ? 1 : size, answer.share);
  const figure = (value: number) => {
    const scaled = value * form.factor;
    if (decimals === null || !Number.isFinite(scaled)) return digits(scaled);
    const options = { minimumFractionDigits: decimals, maximumFractionDigits: decimals };
    return scaled.toLocaleString("en-GB", options).replace("-", "−");
  };
  const text = (value: number | null | undefined) =>
    value == null ? NO_VALUE : `${figure(value)} ${form.suffix}`.trim();
  return { ...form, figure, text };
}

/** Whether values in a unit have forms of their own size, as seconds and bytes have. */
function isScaled(code: string): boolean {
  const unit = lenientUnit(code);
  return ["s", "By", "By/s"].some((other) => comparable(unit, parseUnit(other)));
}

const AMOUNT = /^(-?\d+(?:\.\d+)?)\s*(\S*)$/;

/**
 * An amount as a person writes it ("300 ms", "0.5 %", "2 GiB", "12") in a unit; without one of its own it is in that unit.
 *
 * @returns null where it measures something else, or is no amount
 */
export function amountIn(text: string, unit: string): number | null {
  const found = AMOUNT.exec(text.trim());
  if (!found) return null;
  const [, number, code] = found;
  if (code === "") return Number(number);
  const to = lenientUnit(unit);
  try {
    const from = parseUnit(codeOf(code));
    return comparable(from, to) ? (Number(number) * from.scale) / to.scale : null;
  } catch (error) {
    if (error instanceof UnitError) return null;
    throw error;
  }
}

/** A person's form of a unit as its code: "MiB" is "MiBy", "/s" is "1/s". */
function codeOf(form: string): string {
  if (/^[KMGT]?i?B(?=\/|$)/.test(form)) return form.replace("B", "By");
  if (form.startsWith("µ")) return `u${form.slice(1)}`;
  return form;
}
