"use client";

import { changePlate, copyPlate, newPartId, removePlate, stepPlate } from "@/core/sheet/edit";
import { plateWords } from "@/core/sheet/pickText";
import type { Plate } from "@/core/sheet/sheet";
import type { Editing } from "./editing";
import { Handle } from "./landing";

/** What can be done with a plate by keys, where its handle has the focus. */
function plateKey(editing: Editing, plate: Plate, open: () => void): (event: React.KeyboardEvent) => boolean {
  const widen = (by: number) => {
    const width = Math.min(6, Math.max(1, plate.width + by));
    if (width !== plate.width)
      editing.change(
        "widen a plate",
        changePlate(plate.id, (old) => ({ ...old, width })),
      );
  };
  return ({ key, shiftKey, ctrlKey, metaKey }) => {
    if (ctrlKey || metaKey) return false;
    if (key === "ArrowRight" || key === "ArrowDown") {
      if (shiftKey) widen(1);
      else editing.change("move a plate", stepPlate(plate.id, 1));
    } else if (key === "ArrowLeft" || key === "ArrowUp") {
      if (shiftKey) widen(-1);
      else editing.change("move a plate", stepPlate(plate.id, -1));
    } else if (key === "Delete") editing.change("take a plate out", removePlate(plate.id));
    else if (key === "d") editing.change("copy a plate", copyPlate(plate.id, newPartId()));
    else if (key === "Enter") open();
    else return false;
    return true;
  };
}

/** What stands above a plate while the sheet is edited. */
export function EditBar({
  plate,
  editing,
  open,
  onOpen,
}: {
  plate: Plate;
  editing: Editing;
  open: boolean;
  onOpen: () => void;
}) {
  const words = plateWords(plate);
  return (
    <div
      data-beside="yes"
      className="-mx-3 -mt-2 mb-1 flex items-center gap-2 border-b border-base-300 bg-base-200/60 px-2 text-[12.5px]"
    >
      <Handle
        dragged={{ what: "plate", id: plate.id }}
        label={`Move ${words}: arrows move it, with Shift they make it wider and narrower, D copies it, Delete takes it out, Enter edits it`}
        onKey={plateKey(editing, plate, onOpen)}
      >
        ⠿
      </Handle>
      <button type="button" className="slot" aria-expanded={open} onClick={onOpen}>
        {open ? "close" : "edit"}
      </button>
      <span className="ml-auto flex gap-2">
        <button
          type="button"
          className="slot"
          aria-label={`make ${words} narrower`}
          disabled={plate.width <= 1}
          onClick={() =>
            editing.change(
              "narrow a plate",
              changePlate(plate.id, (old) => ({ ...old, width: Math.max(1, old.width - 1) })),
            )
          }
        >
          narrower
        </button>
        <button
          type="button"
          className="slot"
          aria-label={`make ${words} wider`}
          disabled={plate.width >= 6}
          onClick={() =>
            editing.change(
              "widen a plate",
              changePlate(plate.id, (old) => ({ ...old, width: Math.min(6, old.width + 1) })),
            )
          }
        >
          wider
        </button>
        <button
          type="button"
          className="slot"
          aria-label={`copy ${words}`}
          onClick={() => editing.change("copy a plate", copyPlate(plate.id, newPartId()))}
        >
          copy
        </button>
        <button
          type="button"
          className="slot"
          aria-label={`take ${words} out`}
          onClick={() => editing.change("take a plate out", removePlate(plate.id))}
        >
          take out
        </button>
      </span>
    </div>
  );
}
