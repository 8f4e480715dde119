"use client";

import { useRef } from "react";
import { changePlate, copyPlate, newPartId, removePlate, stepPlate } from "@/core/sheet/edit";
import { filledIn, plateWords } from "@/core/sheet/pickText";
import type { Plate, Sheet } from "@/core/sheet/sheet";
import { Guard } from "../frame/guard";
import Link from "../frame/link";
import { useSpanWhileSeen } from "../query/seen";
import type { Editing } from "./edit/editing";
import { Handle } from "./edit/landing";
import { NoteBody, PlateBody } from "./plateBody";
import { ReadingWords } from "./readingWords";
import { pickWords, useScope } from "./scope";

const HEIGHT = 190;

/** How wide a plate is beside others, and no narrower than that it can be read, px. */
const LEAST_WIDTH = 250;

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

function EditBar({
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

/** A plate as it is read, with what changes it while the sheet is edited. */
export function PlateView({
  sheet,
  plate,
  editing,
  open,
  onOpen,
  scratch,
}: {
  sheet: Sheet;
  plate: Plate;
  editing: Editing | null;
  /** Whether it is being edited. */
  open: boolean;
  onOpen: () => void;
  /** The address of a reading on Scratch; null for who may not go there. */
  scratch: ((text: string) => string) | null;
}) {
  const section = useRef<HTMLElement>(null);
  const span = useSpanWhileSeen(section);
  const { picks } = useScope();
  const words = pickWords(sheet, picks);
  const title = filledIn(plate.title, words);
  return (
    <section
      ref={section}
      data-plate={plate.id}
      aria-label={title || plateWords(plate)}
      className={`group/plate plate min-w-0 px-3 pt-2 pb-2 ${open ? "outline-2 outline-primary" : ""}`}
      style={{ flex: `${plate.width} 1 ${LEAST_WIDTH}px` }}
    >
      {editing && <EditBar plate={plate} editing={editing} open={open} onOpen={onOpen} />}
      {title !== "" && <h3 className="font-bold">{title}</h3>}
      {plate.holds === "note" ? (
        <NoteBody text={filledIn(plate.note, words)} />
      ) : (
        <>
          <ul className="text-[12px] text-muted">
            {plate.readings.map(({ text }, i) => (
              <li key={i} className="line-clamp-2" title={text}>
                {scratch === null ? (
                  <ReadingWords text={text} words={words} />
                ) : (
                  <Link href={scratch(text)} className="hover:text-primary hover:underline">
                    <ReadingWords text={text} words={words} />
                  </Link>
                )}
              </li>
            ))}
          </ul>
          <Guard what="This plate" again={plate}>
            <PlateBody plate={plate} name={title || plateWords(plate)} span={span} height={HEIGHT} />
          </Guard>
        </>
      )}
    </section>
  );
}
