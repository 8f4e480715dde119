"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Change } from "@/core/sheet/edit";
import { changed, type Edited, redone, unchanged, undone } from "@/core/sheet/history";
import { sameSheet } from "@/core/sheet/merge";
import type { Sheet } from "@/core/sheet/sheet";
import { ApiProblem, ask } from "../../query/api";

/** A sheet that is being changed: kept in the store as it goes, with the way back, until it is saved. */

const KEPT_AFTER = 500;
/** Characters that a draft may have in the store. */
const MAX_DRAFT = 230_000;

/** What another saved meanwhile, beside the state that both began from. */
export interface Collision {
  base: Sheet;
  theirs: Sheet;
  version: number;
  who: string;
  note: string;
}

export interface Editing {
  sheet: Sheet;
  /** The version that the changes began from. */
  based: number;
  /** What undoing undoes, and doing again does; null for nothing. */
  undoes: string | null;
  redoes: string | null;
  changes: number;
  /** When what there is was kept in the store; null while it is not. */
  kept: boolean;
  problem: unknown;
  collision: Collision | null;
  change: (does: string, change: Change, joined?: boolean) => void;
  undo: () => void;
  redo: () => void;
  giveUp: () => Promise<void>;
  /** @returns whether it was saved */
  save: (note: string) => Promise<boolean>;
  /** Goes on from what the other saved, with a sheet that has both. */
  settle: (both: Sheet) => void;
}

/** A draft that fits into the store: the oldest steps go where there are too many. */
function fitting(state: Edited): Edited {
  let next = state;
  while (next.steps.length > 0 && JSON.stringify(next).length > MAX_DRAFT)
    // Steps that were undone lead on from the last that is done: they go from their far end.
    next =
      next.done > 0
        ? { ...next, steps: next.steps.slice(1), done: next.done - 1 }
        : { ...next, steps: next.steps.slice(0, -1) };
  return next;
}

export interface Begun {
  based: number;
  state: Edited;
  /** When it was kept; null: it is not yet. */
  at: number | null;
}

/** @param begun what the changes go on from @param onEnd after they were saved or given up */
export function useEditing(id: string, begun: Begun, onEnd: () => void): Editing {
  const client = useQueryClient();
  const [state, setState] = useState(begun.state);
  const [based, setBased] = useState(begun.based);
  const [kept, setKept] = useState(true);
  const [problem, setProblem] = useState<unknown>(null);
  const [collision, setCollision] = useState<Collision | null>(null);
  const seen = useRef(begun.at);
  const latest = useRef({ state, based, ended: false });
  latest.current.state = state;
  latest.current.based = based;
  const keeping = useRef<Promise<void>>(Promise.resolve());
  /** What the store has. */
  const inStore = useRef(begun.state);

  const keep = useCallback(() => {
    keeping.current = keeping.current.then(async () => {
      const { state: now, based: from, ended } = latest.current;
      if (ended) return;
      try {
        const body = { based: from, state: fitting(now), seen: seen.current };
        const { at } = await ask("PUT /api/sheets/{id}/draft", { params: { id }, body });
        seen.current = at;
        inStore.current = now;
        // Who leaves the page and comes back goes on from here.
        client.setQueryData(["sheet draft", id], { draft: { based: from, state: body.state, at } });
        // The list tells that there is a draft.
        await client.invalidateQueries({ queryKey: ["sheets"] });
        if (latest.current.state === now) setKept(true);
        setProblem(null);
      } catch (error) {
        setProblem(error);
      }
    });
    return keeping.current;
  }, [id, client]);

  useEffect(() => {
    if (state === begun.state) return;
    setKept(false);
    const timer = setTimeout(() => void keep(), KEPT_AFTER);
    return () => clearTimeout(timer);
  }, [state, begun.state, keep]);
  useEffect(() => {
    // Nobody has to wait until it is kept: neither who closes the tab nor who goes to another page.
    const keepRest = async () => {
      if (latest.current.state !== inStore.current) await keep();
    };
    const leave = () => {
      if (document.visibilityState === "hidden") void keepRest();
    };
    document.addEventListener("visibilitychange", leave);
    return () => {
      document.removeEventListener("visibilitychange", leave);
      void keepRest();
    };
  }, [keep]);

  const end = async () => {
    latest.current.ended = true;
    try {
      await keeping.current;
      await ask("DELETE /api/sheets/{id}/draft", { params: { id } });
    } catch (error) {
      // What goes on being changed is kept as before.
      latest.current.ended = false;
      throw error;
    }
    for (const queryKey of [["sheet draft", id], ["sheet", id], ["sheets"], ["sheet versions", id]])
      await client.invalidateQueries({ queryKey });
    onEnd();
  };
  const collide = async () => {
    const now = await ask("GET /api/sheets/{id}", { params: { id }, query: {} });
    const base = await ask("GET /api/sheets/{id}", { params: { id }, query: { version: based } });
    setCollision({ base: base.sheet, theirs: now.sheet, version: now.version, who: now.who, note: now.note });
  };
  const { steps, done } = state;
  return {
    sheet: state.sheet,
    based,
    undoes: steps[done - 1]?.does ?? null,
    redoes: steps[done]?.does ?? null,
    changes: done,
    kept,
    problem,
    collision,
    change: (does, change, joined = false) => setState((now) => changed(now, does, change, joined)),
    undo: () => setState(undone),
    redo: () => setState(redone),
    giveUp: () => end().catch(setProblem),
    save: async (note) => {
      setProblem(null);
      try {
        await ask("PUT /api/sheets/{id}", { params: { id }, body: { sheet: state.sheet, note, based } });
        await end();
        return true;
      } catch (error) {
        if (error instanceof ApiProblem && error.status === 409) await collide();
        else setProblem(error);
        return false;
      }
    },
    settle: (both) => {
      if (!collision) return;
      const { version, theirs } = collision;
      setCollision(null);
      setBased(version);
      setState((now) =>
        sameSheet(both, theirs)
          ? unchanged(theirs)
          : changed(now, "bring both together", (draft) => {
              Object.assign(draft, both);
            }),
      );
    },
  };
}
