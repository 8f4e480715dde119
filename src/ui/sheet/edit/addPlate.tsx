"use client";

import { useState } from "react";
import { parseReading } from "@/core/reading/language/parse";
import { workedExamples } from "@/core/reading/language/questions";
import { ReadingError } from "@/core/reading/language/tree";
import { addPlate, newPartId } from "@/core/sheet/edit";
import { proposedLook } from "@/core/sheet/propose";
import { plate as plateSchema } from "@/core/sheet/sheet";
import { Dialog } from "../../frame/dialog";
import { useMetrics } from "../../query/use";
import type { Editing } from "./editing";

const OFFERED = 8;

/** Puts a plate into a band: a reading that is written or chosen, or a note. */
export function AddPlateDialog({
  editing,
  band,
  onAdded,
  onClose,
}: {
  editing: Editing;
  band: string;
  onAdded: (plate: string) => void;
  onClose: () => void;
}) {
  const metrics = useMetrics();
  const [text, setText] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const at = editing.sheet.bands.find(({ id }) => id === band)?.plates.length ?? 0;
  const put = (given: object) => {
    const id = newPartId();
    editing.change("add a plate", addPlate(plateSchema.parse({ id, ...given }), band, at));
    onAdded(id);
  };
  const putReading = (reading: string) => {
    try {
      const { title } = parseReading(reading);
      put({ holds: "readings", title: title ?? "", readings: [{ text: reading }], look: proposedLook(reading) });
    } catch (error) {
      if (!(error instanceof ReadingError)) throw error;
      setProblem(`${error.message}. ${error.hint}`);
    }
  };
  return (
    <Dialog title="Add a plate" open onClose={onClose} wide>
      <h2 className="text-base font-bold">Add a plate</h2>
      <form
        className="mt-2 flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          putReading(text.trim());
        }}
      >
        <label className="flex-1">
          <span className="block text-[12.5px] text-muted">a reading</span>
          <input
            className="input input-sm num w-full"
            value={text}
            placeholder="rate of http.server.request.duration by release"
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        <button type="submit" className="btn btn-sm btn-primary" disabled={text.trim() === ""}>
          Add it
        </button>
        <button type="button" className="btn btn-sm" onClick={() => put({ holds: "note", note: "" })}>
          Add a note
        </button>
      </form>
      {problem && (
        <p role="alert" className="mt-1 text-[13px] text-error">
          ✕ {problem}
        </p>
      )}
      <h3 className="mt-4 text-[13px] font-bold">Or one of these, of what arrives</h3>
      <ul className="mt-1 space-y-1 text-[13px]">
        {workedExamples(metrics.data ?? [])
          .slice(0, OFFERED)
          .map(({ question, reading }) => (
            <li key={reading}>
              {question}{" "}
              <button type="button" className="slot num text-left" onClick={() => putReading(reading)}>
                {reading}
              </button>
            </li>
          ))}
      </ul>
    </Dialog>
  );
}
