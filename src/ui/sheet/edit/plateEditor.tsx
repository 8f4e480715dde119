"use client";

import { changePlate } from "@/core/sheet/edit";
import { kindOfLook } from "@/core/sheet/looks";
import { type Plate, type PlateReading, plateReading, type ReadingsPlate, SHEET_LIMITS } from "@/core/sheet/sheet";
import type { Editing } from "./editing";
import { LookSentence } from "./lookSentence";
import { ReadingPart } from "./readingPart";
import { Thresholds } from "./thresholds";

/** Changes a plate. What is typed letter by letter is one change. */
type Put = (plate: Plate, does: string, typed?: boolean) => void;

function ReadingsEditor({ plate, put }: { plate: ReadingsPlate; put: Put }) {
  const { readings, look } = plate;
  const setReading = (place: number, reading: PlateReading, does: string, typed = false) =>
    put({ ...plate, readings: readings.map((one, i) => (i === place ? reading : one)) }, does, typed);
  const most = Math.min(SHEET_LIMITS.readings, kindOfLook(look.as).most);
  return (
    <>
      {readings.map((reading, place) => (
        <ReadingPart
          key={place}
          reading={reading}
          place={place}
          onChange={(next, does, typed) => setReading(place, next, does, typed)}
          onRemove={
            readings.length > 1
              ? () => put({ ...plate, readings: readings.filter((_, i) => i !== place) }, "take a reading out")
              : null
          }
        />
      ))}
      {readings.length < most && (
        <button
          type="button"
          className="slot mt-2"
          onClick={() =>
            put(
              { ...plate, readings: [...readings, plateReading.parse({ text: readings[readings.length - 1].text })] },
              "add a reading",
            )
          }
        >
          add a reading
        </button>
      )}
      <LookSentence
        look={look}
        onChange={(next, typed) => put({ ...plate, look: next }, "look at it another way", typed)}
      />
      {"thresholds" in look && (
        <Thresholds look={look} onChange={(next) => put({ ...plate, look: next }, "change the levels")} />
      )}
    </>
  );
}

/** Gives the focus to a field that was opened to be written in. */
function focusFirst(field: HTMLInputElement | null): void {
  field?.focus();
}

/** Changes a plate, beside its live picture. */
export function PlateEditor({ plate, editing, onClose }: { plate: Plate; editing: Editing; onClose: () => void }) {
  const put: Put = (next, does, typed = false) =>
    editing.change(
      does,
      changePlate(plate.id, () => next),
      typed,
    );
  return (
    <section
      aria-label={`Edit ${plate.title || "the plate"}`}
      className="plate mt-2 border-l-4 border-l-primary px-4 py-3"
      onKeyDown={(event) => {
        if (event.key === "Escape" && !event.defaultPrevented) onClose();
      }}
    >
      <div className="flex items-end gap-3">
        <label className="flex-1">
          <span className="block pb-1.5 text-[12px] text-muted">title; a pick stands in it as &lt;name&gt;</span>
          <input
            className={"input input-sm w-full"}
            ref={focusFirst}
            value={plate.title}
            maxLength={120}
            onChange={(event) => put({ ...plate, title: event.target.value }, "name a plate", true)}
          />
        </label>
        <button type="button" className="btn btn-sm" onClick={onClose}>
          Done
        </button>
      </div>
      {plate.holds === "note" ? (
        <label className="mt-2 block">
          <span className="block text-[12px] text-muted">the note, in Markdown</span>
          <textarea
            className="textarea num h-40 w-full text-[13px]"
            value={plate.note}
            maxLength={SHEET_LIMITS.note}
            onChange={(event) => put({ ...plate, note: event.target.value }, "write a note", true)}
          />
        </label>
      ) : (
        <ReadingsEditor plate={plate} put={put} />
      )}
    </section>
  );
}
