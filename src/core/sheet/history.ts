import { applyPatches, enablePatches, type Patch, produceWithPatches } from "immer";
import { z } from "zod";
import type { Change } from "./edit";
import { type Sheet, sheet } from "./sheet";

/** A sheet that is being changed, with the way back and forth through all of its changes. */

enablePatches();

const path = z.array(z.union([z.string().max(100), z.number().int().min(0).max(10_000)])).max(20);
const patch = z
  .object({ op: z.enum(["add", "remove", "replace"]), path, value: z.unknown().optional() })
  .transform((one) => one as Patch);

const step = z.object({
  /** What it did, in words: what undoing it undoes. */
  does: z.string().max(200),
  forth: z.array(patch).max(2000),
  back: z.array(patch).max(2000),
});

/** How many changes can be undone. */
export const MAX_STEPS = 200;

export const edited = z.object({
  sheet,
  steps: z.array(step).max(MAX_STEPS),
  /** How many of the steps are done; those behind it were undone. */
  done: z.number().int().min(0).max(MAX_STEPS),
});
export type Edited = z.infer<typeof edited>;

/** A sheet before anything of it is changed. */
export function unchanged(one: Sheet): Edited {
  return { sheet: one, steps: [], done: 0 };
}

/**
 * Does a change. What was undone is gone with it.
 *
 * @param does what it does, in words
 * @param joined whether it goes on with the change before, if that did the same: letters of a word are one change
 */
export function changed(state: Edited, does: string, change: Change, joined = false): Edited {
  const [result, forth, back] = produceWithPatches(state.sheet, (draft) => {
    change(draft);
  });
  if (forth.length === 0) return state;
  const before = state.steps.slice(0, state.done);
  const last = before.at(-1);
  const own = { does, forth, back };
  const steps = joined && last?.does === does ? [...before.slice(0, -1), inOne(last, own)] : [...before, own];
  const kept = steps.slice(-MAX_STEPS);
  return { sheet: result, steps: kept, done: kept.length };
}

type Step = Edited["steps"][number];

/** Two steps as one. Where both put a value into one place, that is all that is kept. */
function inOne(first: Step, second: Step): Step {
  const place = (patches: readonly Patch[]) =>
    patches.length === 1 && patches[0].op === "replace" ? patches[0].path.join("/") : null;
  const same = place(first.forth) !== null && place(first.forth) === place(second.forth);
  return {
    does: second.does,
    forth: same ? second.forth : [...first.forth, ...second.forth],
    back: same ? first.back : [...second.back, ...first.back],
  };
}

/** Takes the last change back; the same where there is none. */
export function undone(state: Edited): Edited {
  if (state.done === 0) return state;
  return { ...state, sheet: applyPatches(state.sheet, state.steps[state.done - 1].back), done: state.done - 1 };
}

/** Does again what was taken back last; the same where nothing was. */
export function redone(state: Edited): Edited {
  if (state.done === state.steps.length) return state;
  return { ...state, sheet: applyPatches(state.sheet, state.steps[state.done].forth), done: state.done + 1 };
}
