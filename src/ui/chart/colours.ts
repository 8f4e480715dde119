import type { ReadingSeries } from "@/core/reading/result";

/** How a series is drawn: colour by age where series are releases, else by place in the ordered palette. */
export interface Stroke {
  colour: string;
  width: number;
}

/** How opaque areas are: on top of each other, as bars, those that may still change, and those of bounds where few lines are drawn. */
export const OPACITY = { stacked: 0.5, bars: 0.8, fresh: 0.16, bounds: 0.09 };
/** With more lines, bounds show only of the one that is pointed at. */
export const MAX_WITH_BOUNDS = 3;

const PALETTE = 6;
/** Lines beyond the palette: all alike, told apart by pointing at them. */
export const PLAIN: Stroke = { colour: "var(--color-secondary)", width: 1 };

/** Releases: the newest is the ink blue and thick, older ones step towards grey and thin. */
export function ageStroke(age: number): Stroke {
  if (age <= 0) return { colour: "var(--color-primary)", width: 2.6 };
  const part = Math.max(0, 62 - age * 22);
  return {
    colour: `color-mix(in oklab, var(--color-primary) ${part}%, var(--color-secondary))`,
    width: age === 1 ? 1.8 : 1.3,
  };
}

/** Series by the age of their releases, the newest first, unknown ones last; null where they are not by release alone. */
export function byAge(
  series: readonly ReadingSeries[],
  newestFirst: readonly string[],
): readonly ReadingSeries[] | null {
  const onlyReleases =
    series.length > 0 && series.every(({ labels }) => Object.keys(labels).length === 1 && "service.version" in labels);
  if (!onlyReleases) return null;
  const places = new Map(newestFirst.map((release, place) => [release, place]));
  const rank = ({ labels }: ReadingSeries) => places.get(labels["service.version"] ?? "") ?? newestFirst.length;
  return [...series].sort((a, b) => rank(a) - rank(b));
}

/** A stroke per series. `newestFirst` are the known releases, newest first. */
export function strokesOf(series: readonly ReadingSeries[], newestFirst: readonly string[]): Stroke[] {
  const order = byAge(series, newestFirst);
  if (!order) return series.map((_, i) => (i < PALETTE ? { colour: `var(--series-${i + 1})`, width: 1.8 } : PLAIN));
  return series.map((one) => ageStroke(order.indexOf(one)));
}

/** Releases by their series' names, newest first, from marks of one or several services. */
export function newestFirst(marks: readonly { release: string; at: number; version?: string }[]): string[] {
  return [...marks].sort((a, b) => b.at - a.at).map(({ release, version }) => version ?? release);
}
