"use client";

import { useState } from "react";
import type { Look } from "@/core/sheet/looks";
import { threshold } from "@/core/sheet/looks/definition";
import { Slot } from "../../sentence/slot";
import { TextField } from "./textField";

/** Levels that mean something. */
export function Thresholds({
  look,
  onChange,
}: {
  look: Extract<Look, { thresholds: unknown }>;
  onChange: (look: Look) => void;
}) {
  const [draft, setDraft] = useState({ at: "", word: "", wrong: "above" as const as "above" | "below" | "neither" });
  const made = threshold.safeParse(draft);
  const set = (thresholds: typeof look.thresholds) => onChange({ ...look, thresholds });
  return (
    <div className="mt-2 flex flex-wrap items-end gap-3 text-[13px]">
      {look.thresholds.map((one, i) => (
        <span key={`${one.at} ${one.word}`}>
          {one.word} at <span className="num">{one.at}</span>
          {one.wrong !== "neither" && `, wrong ${one.wrong}`}{" "}
          <button type="button" className="slot" onClick={() => set(look.thresholds.filter((_, j) => j !== i))}>
            take out
          </button>
        </span>
      ))}
      {look.thresholds.length < 6 && (
        <>
          <TextField
            label="a level at"
            width="w-24"
            placeholder="300 ms"
            value={draft.at}
            onChange={(at) => setDraft({ ...draft, at })}
          />
          <TextField
            label="which means"
            width="w-36"
            placeholder="too slow"
            value={draft.word}
            onChange={(word) => setDraft({ ...draft, word })}
          />
          <Slot
            name="which side is wrong"
            options={[
              { value: "above", label: "wrong above" },
              { value: "below", label: "wrong below" },
              { value: "neither", label: "neither side is wrong" },
            ]}
            onChoose={(wrong) => setDraft({ ...draft, wrong: wrong as typeof draft.wrong })}
          >
            {draft.wrong === "neither" ? "neither side is wrong" : `wrong ${draft.wrong}`}
          </Slot>
          <button
            type="button"
            className="btn btn-xs"
            disabled={!made.success}
            onClick={() => {
              if (made.success) set([...look.thresholds, made.data]);
              setDraft({ at: "", word: "", wrong: "above" });
            }}
          >
            Add the level
          </button>
        </>
      )}
    </div>
  );
}
