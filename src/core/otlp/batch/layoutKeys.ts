import { type Layout, layoutKey } from "../../metric/model";

/** How layouts of points are told apart in a batch. */

const keys = new WeakMap<Layout, string>();

/** A text that is equal for equal layouts, ranges of exponential ones included. */
export function exactLayoutKey(layout: Layout): string {
  let key = keys.get(layout);
  if (key === undefined) {
    key = layoutKey(layout);
    if (layout.kind === "exponential")
      key += `,${layout.positive.from},${layout.positive.width},${layout.negative.from},${layout.negative.width}`;
    keys.set(layout, key);
  }
  return key;
}

export const numberLayout = (): Layout => ({ kind: "number" });
