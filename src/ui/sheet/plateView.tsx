"use client";

import { useRef } from "react";
import { filledIn, plateWords } from "@/core/sheet/pickText";
import type { Plate, Sheet } from "@/core/sheet/sheet";
import { Guard } from "../frame/guard";
import Link from "../frame/link";
import { useSpanWhileSeen } from "../query/seen";
import type { Editing } from "./edit/editing";
import { useEditParts } from "./editScope";
import { NoteBody, PlateBody } from "./plateBody";
import { ReadingWords } from "./readingWords";
import { pickWords, useScope } from "./scope";

const HEIGHT = 190;

/** How wide a plate is beside others, and no narrower than that it can be read, px. */
const LEAST_WIDTH = 250;

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
  const parts = useEditParts();
  const words = pickWords(sheet, picks);
  const title = filledIn(plate.title, words);
  return (
    <section
      ref={section}
      data-plate={plate.id}
      aria-label={title || plateWords(plate)}
      className={`group/plate plate relative min-w-0 px-3 pt-2 pb-2 ${open ? "outline-2 outline-primary" : ""}`}
      style={{ flex: `${plate.width} 1 ${LEAST_WIDTH}px` }}
    >
      {editing && parts && <parts.EditBar plate={plate} editing={editing} open={open} onOpen={onOpen} />}
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
