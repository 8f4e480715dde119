import type { ReadingResult, ReadingSeries } from "../../reading/result";
import type { Order } from "../looks/definition";
import { nameOf } from "./names";

/** Which series of an answer are shown, in which order, and what becomes of the rest. */

export interface ChosenSeries {
  shown: ReadingSeries[];
  /** What the others add up to; null where there are none, it was not asked for, or they do not add up. */
  rest: ReadingSeries | null;
  /** How many are not shown. */
  others: number;
}

const collator = new Intl.Collator("en", { numeric: true });

/** Series in an order. Those without a value of the window come last. */
export function inOrder(series: readonly ReadingSeries[], order: Order, names = ""): ReadingSeries[] {
  if (order === "as read") return [...series];
  if (order === "by name") return [...series].sort((a, b) => collator.compare(nameOf(a, names), nameOf(b, names)));
  const sign = order === "largest first" ? -1 : 1;
  const size = ({ total }: ReadingSeries) => (total === null ? Number.POSITIVE_INFINITY : sign * total);
  return [...series].sort((a, b) => size(a) - size(b) || 0);
}

/** Values of series added up, step by step; a step in which none has a value has none. */
export function sumOf(series: readonly ReadingSeries[]): ReadingSeries {
  const add = (values: readonly (number | null)[]) =>
    values.reduce<number | null>((sum, value) => (value === null ? sum : (sum ?? 0) + value), null);
  const settled = series.flatMap(({ settledTo }) => settledTo ?? []);
  return {
    labels: {},
    values: (series[0]?.values ?? []).map((_, i) => add(series.map(({ values }) => values[i]))),
    total: add(series.map(({ total }) => total)),
    ...(settled.length > 0 ? { settledTo: Math.min(...settled) } : {}),
  };
}

/**
 * @param rest whether what is not shown is added up: only of what adds up
 * @param most how many there is room for
 * @param top how many are wanted: then the largest ones, whatever the order
 */
export function chosenSeries(
  { series }: Pick<ReadingResult, "series">,
  { order, top, rest, names }: { order: Order; top: number | null; rest: boolean; names: string },
  most: number,
): ChosenSeries {
  const count = Math.min(top ?? most, most);
  const all = [...series];
  const largest = all.length <= count ? all : inOrder(all, "largest first").slice(0, count);
  const others = all.filter((one) => !largest.includes(one));
  return {
    shown: inOrder(
      all.filter((one) => largest.includes(one)),
      order,
      names,
    ),
    rest: rest && others.length > 0 ? sumOf(others) : null,
    others: others.length,
  };
}
