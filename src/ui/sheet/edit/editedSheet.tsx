"use client";

import { useEffect, useState } from "react";
import type { SavedSheetAnswer } from "@/core/api/sheets";
import { unchanged } from "@/core/sheet/history";
import { EditScope } from "../editScope";
import { ShownSheet } from "../shownSheet";
import { type Begun, useEditing } from "./editing";
import { EDIT_PARTS } from "./parts";

/** A sheet that is changed. @param begun the draft that it goes on from; null: the sheet as it was saved */
export function EditedSheet({
  saved,
  begun,
  onEnd,
}: {
  saved: SavedSheetAnswer;
  begun: Begun | null;
  onEnd: () => void;
}) {
  const [from] = useState(() => begun ?? { based: saved.version, state: unchanged(saved.sheet), at: null });
  const editing = useEditing(saved.id, from, onEnd);
  const { undo, redo } = editing;
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      // In a field the browser undoes what was typed there.
      if (target.isContentEditable || ["INPUT", "TEXTAREA"].includes(target.tagName)) return;
      if (!(event.ctrlKey || event.metaKey)) return;
      const key = event.key.toLowerCase();
      if (key !== "z" && key !== "y") return;
      event.preventDefault();
      if (key === "y" || event.shiftKey) redo();
      else undo();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [undo, redo]);
  return (
    <EditScope value={EDIT_PARTS}>
      <ShownSheet saved={saved} sheet={editing.sheet} editing={editing} onEdit={null} drafted={null} />
    </EditScope>
  );
}
