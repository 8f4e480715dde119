"use client";

import { useState } from "react";
import { merged, type Part, partWords, type Side } from "@/core/sheet/merge";
import type { Sheet } from "@/core/sheet/sheet";
import { Differences } from "../versions";
import type { Collision } from "./editing";

/** What a part says, short enough to be held beside another. */
function saying(part: Part | null): string {
  if (!part) return "taken out";
  switch (part.of) {
    case "head":
      return Array.isArray(part.value) ? part.value.join(", ") || "nothing" : part.value || "nothing";
    case "pick":
      return `${part.pick.words}, from ${part.pick.source.of}`;
    case "band":
      return part.band.title || "without a title";
    case "plate":
      return part.plate.holds === "note"
        ? part.plate.note.slice(0, 200) || "an empty note"
        : `${part.plate.title}: ${part.plate.readings.map(({ text }) => text).join("; ")}, as ${part.plate.look.as}`;
  }
}

/** Two people changed a sheet at once: both are shown, and either can be taken, part by part. */
export function CollisionView({
  collision,
  mine,
  onSettle,
}: {
  collision: Collision;
  mine: Sheet;
  onSettle: (both: Sheet) => void;
}) {
  const { base, theirs, who, note, version } = collision;
  const [sides, setSides] = useState<Readonly<Record<string, Side>>>({});
  const { sheet: both, conflicts } = merged(base, mine, theirs, (key) => sides[key] ?? "mine");
  return (
    <section role="alert" className="plate my-3 border-l-4 border-l-warning px-4 py-3">
      <p className="font-bold">
        ◆ {who} saved version {version} meanwhile: {note}
      </p>
      <div className="mt-2 grid gap-4 md:grid-cols-2">
        <div>
          <p className="font-semibold">What {who} changed</p>
          <Differences before={base} after={theirs} />
        </div>
        <div>
          <p className="font-semibold">What you changed</p>
          <Differences before={base} after={mine} />
        </div>
      </div>
      {conflicts.length > 0 && (
        <div className="mt-2">
          <p className="font-semibold">Both of you changed</p>
          {conflicts.map(({ key, mine: own, theirs: other }) => (
            <fieldset key={key} className="mt-1 border-t border-base-300 pt-1 text-[13px]">
              <legend className="sr-only">{partWords((own ?? other)!)}</legend>
              <p>{partWords((own ?? other)!)}</p>
              {(
                [
                  ["mine", "yours", own],
                  ["theirs", `${who}'s`, other],
                ] as const
              ).map(([side, words, part]) => (
                <label key={side} className="flex gap-2">
                  <input
                    type="radio"
                    className="radio radio-xs mt-1"
                    name={key}
                    checked={(sides[key] ?? "mine") === side}
                    onChange={() => setSides({ ...sides, [key]: side })}
                  />
                  <span>
                    {words}: <span className="num">{saying(part)}</span>
                  </span>
                </label>
              ))}
            </fieldset>
          ))}
        </div>
      )}
      <p className="mt-3 flex gap-3">
        <button type="button" className="btn btn-sm btn-primary" onClick={() => onSettle(both)}>
          Bring both together
        </button>
        <button type="button" className="btn btn-sm" onClick={() => onSettle(theirs)}>
          Take {who}&apos;s, give up mine
        </button>
      </p>
    </section>
  );
}
