import type { Threshold } from "@/core/sheet/looks/definition";
import { amountIn } from "@/core/sheet/shown/writer";

/** A threshold with where it lies, in the unit of values. */
export type PlacedThreshold = Threshold & { value: number };

/** Thresholds in a unit; those that measure something else are left out. */
export function placedIn(thresholds: readonly Threshold[], unit: string): PlacedThreshold[] {
  return thresholds.flatMap((one) => {
    const value = amountIn(one.at, unit);
    return value === null ? [] : [{ ...one, value }];
  });
}

/** The threshold on whose wrong side a value lies, the nearest of them; null where it lies on none. */
export function crossed(value: number | null, thresholds: readonly PlacedThreshold[]): PlacedThreshold | null {
  if (value === null) return null;
  const wrong = thresholds.filter(
    (one) => (one.wrong === "above" && value > one.value) || (one.wrong === "below" && value < one.value),
  );
  return wrong.sort((a, b) => Math.abs(b.value - value) - Math.abs(a.value - value)).at(-1) ?? null;
}
