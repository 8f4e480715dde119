"use client";

import { Fragment, useState } from "react";
import { changeBand, moveBand, removeBand } from "@/core/sheet/edit";
import { filledIn } from "@/core/sheet/pickText";
import type { Band, Sheet } from "@/core/sheet/sheet";
import type { Editing } from "./edit/editing";
import { type Dragged, Handle, PlateGap } from "./edit/landing";
import { PlateEditor } from "./edit/plateEditor";
import { PlateView } from "./plateView";
import { pickWords, useScope } from "./scope";

const counted = (count: number) => (count === 1 ? "1 plate" : `${count} plates`);

function BandBar({ band, editing, place, count }: { band: Band; editing: Editing; place: number; count: number }) {
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

/** A titled strip of plates that can be folded away. */
export function BandView({
  sheet,
  band,
  place,
  editing,
  dragged,
  open,
  onOpen,
  onAdd,
  scratch,
}: {
  sheet: Sheet;
  band: Band;
  place: number;
  editing: Editing | null;
  dragged: Dragged | null;
  /** The plate that is being edited. */
  open: string | null;
  onOpen: (plate: string | null) => void;
  onAdd: (band: string) => void;
  scratch: ((text: string) => string) | null;
}) {
  const [folded, setFolded] = useState(band.folded);
  const { picks } = useScope();
  const title = filledIn(band.title, pickWords(sheet, picks));
  const hidden = folded && !editing;
  const { plates } = band;
  const edited = plates.find(({ id }) => id === open);
  return (
    <section aria-label={title || "A band"} className="mt-4">
      <header className="mb-2 flex items-center gap-3">
        {editing ? (
          <BandBar band={band} editing={editing} place={place} count={sheet.bands.length} />
        ) : (
          <h2 className="text-[15px] font-bold">
            <button
              type="button"
              aria-expanded={!hidden}
              className="hover:text-primary"
              onClick={() => setFolded(!folded)}
            >
              {title || "Without a title"}
            </button>
          </h2>
        )}
        <span aria-hidden="true" className="h-[3px] flex-1 rounded-xs bg-base-300/70" />
        <span className="text-[12.5px] text-muted">
          {counted(plates.length)}
          {hidden && ", folded"}
        </span>
      </header>
      {!hidden && (
        <div className="flex flex-wrap gap-3">
          {plates.map((plate, i) => (
            <Fragment key={plate.id}>
              {editing && <PlateGap sheet={sheet} band={band.id} at={i} dragged={dragged} />}
              <PlateView
                sheet={sheet}
                plate={plate}
                editing={editing}
                open={plate.id === open}
                onOpen={() => onOpen(plate.id === open ? null : plate.id)}
                scratch={scratch}
              />
            </Fragment>
          ))}
          {editing && <PlateGap sheet={sheet} band={band.id} at={plates.length} dragged={dragged} />}
          {editing && plates.length < 4 && (
            <button
              type="button"
              className="min-h-16 min-w-24 flex-none rounded-sm border-2 border-dashed border-base-300 px-3 text-[13px] text-muted hover:border-primary hover:text-primary"
              onClick={() => onAdd(band.id)}
            >
              add a plate
            </button>
          )}
        </div>
      )}
      {editing && edited && (
        <PlateEditor key={edited.id} plate={edited} editing={editing} onClose={() => onOpen(null)} />
      )}
    </section>
  );
}
