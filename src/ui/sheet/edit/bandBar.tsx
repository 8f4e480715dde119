"use client";

import { changeBand, moveBand, removeBand } from "@/core/sheet/edit";
import type { Band } from "@/core/sheet/sheet";
import type { Editing } from "./editing";
import { Handle } from "./landing";

/** The head of a band while the sheet is edited: its title, and what moves it, folds it and takes it out. */
export function BandBar({
  band,
  editing,
  place,
  count,
}: {
  band: Band;
  editing: Editing;
  place: number;
  count: number;
}) {
  const words = band.title === "" ? "this band" : `the band ${band.title}`;
  const move = (to: number) => editing.change("move a band", moveBand(band.id, to));
  return (
    <>
      <Handle
        dragged={{ what: "band", id: band.id }}
        label={`Move ${words}: up and down move it, Delete takes it out`}
        onKey={({ key }) => {
          if (key === "ArrowUp") move(place - 1);
          else if (key === "ArrowDown") move(place + 1);
          else if (key === "Delete") editing.change("take a band out", removeBand(band.id));
          else return false;
          return true;
        }}
      >
        ⠿
      </Handle>
      <input
        className="input input-sm w-64 font-bold"
        aria-label="title of the band"
        placeholder="a band without a title"
        value={band.title}
        maxLength={120}
        onChange={(event) => editing.change("name a band", changeBand(band.id, { title: event.target.value }), true)}
      />
      <span className="flex gap-3 text-[12.5px]">
        <button
          type="button"
          className="slot"
          aria-pressed={band.folded}
          onClick={() => editing.change("fold a band", changeBand(band.id, { folded: !band.folded }))}
        >
          {band.folded ? "opens folded" : "opens unfolded"}
        </button>
        {place > 0 && (
          <button type="button" className="slot" aria-label={`move ${words} up`} onClick={() => move(place - 1)}>
            up
          </button>
        )}
        {place < count - 1 && (
          <button type="button" className="slot" aria-label={`move ${words} down`} onClick={() => move(place + 1)}>
            down
          </button>
        )}
        <button
          type="button"
          className="slot"
          aria-label={`take ${words} out`}
          onClick={() => editing.change("take a band out", removeBand(band.id))}
        >
          take out
        </button>
      </span>
    </>
  );
}
