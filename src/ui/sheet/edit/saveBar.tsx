"use client";

import { useState } from "react";
import { ProblemNote } from "../../frame/problemNote";
import type { Editing } from "./editing";

/** What was changed on a sheet: taken back, done again, saved with a note, or given up. */
export function SaveBar({ editing }: { editing: Editing }) {
  const [note, setNote] = useState("");
  const [sure, setSure] = useState(false);
  const [saving, setSaving] = useState(false);
  const { undoes, redoes, changes, kept, problem } = editing;
  const save = async () => {
    setSaving(true);
    await editing.save(note.trim());
    setSaving(false);
  };
  return (
    <>
      <form
        className="sticky top-0 z-30 -mx-1 mb-2 flex flex-wrap items-end gap-2 rounded-sm border border-base-300 bg-base-100 px-3 py-2 shadow-sm"
        aria-label="Changes of this sheet"
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <button
          type="button"
          className="btn btn-sm"
          disabled={undoes === null}
          title={undoes ?? ""}
          onClick={editing.undo}
        >
          Undo{undoes ? `: ${undoes}` : ""}
        </button>
        <button
          type="button"
          className="btn btn-sm"
          disabled={redoes === null}
          title={redoes ?? ""}
          onClick={editing.redo}
        >
          Do again
        </button>
        <span className="self-center text-[12.5px] text-muted" aria-live="polite">
          {changes === 0
            ? "nothing changed yet"
            : `${changes} ${changes === 1 ? "change" : "changes"}, ${kept ? "kept as a draft" : "being kept…"}`}
        </span>
        <label className="ml-auto w-64">
          <span className="block text-[12px] text-muted">what changed, in a few words</span>
          <input
            className="input input-sm w-full"
            value={note}
            maxLength={500}
            onChange={(event) => setNote(event.target.value)}
          />
        </label>
        <button
          type="submit"
          className="btn btn-sm btn-primary"
          disabled={note.trim() === "" || saving || editing.sheet.name.trim() === ""}
        >
          Save
        </button>
        {sure ? (
          <>
            <button type="button" className="btn btn-sm btn-error" onClick={() => void editing.giveUp()}>
              Give them up
            </button>
            <button type="button" className="btn btn-sm" onClick={() => setSure(false)}>
              Go on
            </button>
          </>
        ) : (
          <button
            type="button"
            className="btn btn-sm"
            onClick={() => (changes === 0 ? void editing.giveUp() : setSure(true))}
          >
            {changes === 0 ? "Done" : "Give up changes…"}
          </button>
        )}
      </form>
      {problem !== null && <ProblemNote error={problem} />}
    </>
  );
}
