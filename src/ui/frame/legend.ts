import { RUNGS } from "./pages";

/** What stands under "?": the marks, and the keys. */

/** What the marks say, on every page. */
export const MARKS: readonly { mark: string; says: string }[] = [
  { mark: "✕", says: "is wrong, or failed" },
  { mark: "◆", says: "look at it" },
  { mark: "✓", says: "is well" },
  { mark: "▲ ▼", says: "more, less than before" },
];

/** What the keys do, for the list that `?` opens. */
export const KEYS: readonly { keys: string; does: string }[] = [
  { keys: `1 – ${RUNGS.length}`, does: "go to a rung of the ladder on the left" },
  { keys: "0", does: "go home: all services, the worst first" },
  { keys: "[  ]", does: "show the release before, the release after" },
  { keys: "/", does: "find: pages, services, metrics" },
  { keys: "Ctrl K", does: "the same, from anywhere" },
  { keys: "e", does: "edit the reading in hand, or the sheet" },
  { keys: "k", does: "keep the reading in hand on a sheet" },
  { keys: "Ctrl Z", does: "on a sheet that is edited: undo; with Shift, do again" },
  { keys: "l", does: "back to a live window" },
  { keys: "t", does: "tin or soot: light or dark" },
  { keys: "←  →", does: "on a chart: from step to step, with Shift ten at once" },
  { keys: "?", does: "this list" },
];
