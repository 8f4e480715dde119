"use client";

import { Fragment, useState } from "react";
import { filledIn } from "@/core/sheet/pickText";
import type { Band, Sheet } from "@/core/sheet/sheet";
import type { Editing } from "./edit/editing";
import type { Dragged } from "./edit/landing";
import { useEditParts } from "./editScope";
import { PlateView } from "./plateView";
import { pickWords, useScope } from "./scope";

const counted = (count: number) => (count === 1 ? "1 plate" : `${count} plates`);

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
  const parts = useEditParts();
  const title = filledIn(band.title, pickWords(sheet, picks));
  const hidden = folded && !editing;
  const { plates } = band;
  const edited = plates.find(({ id }) => id === open);
  return (
    <section aria-label={title || "A band"} className="mt-4">
      <header className="mb-2 flex items-center gap-3">
        {editing && parts ? (
          <parts.BandBar band={band} editing={editing} place={place} count={sheet.bands.length} />
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
              {parts && <parts.PlateGap sheet={sheet} band={band.id} at={i} dragged={dragged} />}
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
          {parts && <parts.PlateGap sheet={sheet} band={band.id} at={plates.length} dragged={dragged} />}
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
      {editing && parts && edited && (
        <parts.PlateEditor key={edited.id} plate={edited} editing={editing} onClose={() => onOpen(null)} />
      )}
    </section>
  );
}
