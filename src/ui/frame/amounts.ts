import { digits, formatValue } from "@/core/unit/format";
import { DAY } from "@/core/window/lengths";

/** Amounts of the store as people say them. */

export function size(bytes: number): string {
  return formatValue(bytes, "By");
}

export function count(value: number): string {
  if (value < 10_000) return value.toLocaleString("en-GB");
  return value < 1e6
    ? `${digits(value / 1e3)} k`
    : value < 1e9
      ? `${digits(value / 1e6)} M`
      : `${digits(value / 1e9)} G`;
}

export function days(ms: number): string {
  const value = ms / DAY;
  return `${digits(value)} ${value === 1 ? "day" : "days"}`;
}
