"use client";

import {
  type CollisionDetection,
  DndContext,
  type DragEndEvent,
  DragOverlay,
  type DragStartEvent,
  PointerSensor,
  pointerWithin,
  rectIntersection,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { type ReactNode, useState } from "react";
import { addBand, addPlate, hasRoom, moveBand, movePlate, newPartId, placeOf, removePlate } from "@/core/sheet/edit";
import { plateWords } from "@/core/sheet/pickText";
import { platesOf } from "@/core/sheet/plates";
import type { Sheet } from "@/core/sheet/sheet";
import type { Editing } from "./editing";

/** Plates and bands that are dragged: where they can land is shown, and where they cannot. */

export type Dragged = { what: "plate" | "band"; id: string };

/** A place between plates of a band (before the one at `at`), or between bands. */
type Landing = { between: "plates"; band: string; at: number } | { between: "bands"; at: number };

const near: CollisionDetection = (args) => {
  const under = pointerWithin(args);
  return under.length > 0 ? under : rectIntersection(args);
};

function land(editing: Editing, { what, id }: Dragged, to: Landing): void {
  const { sheet } = editing;
  if (what === "band") {
    const from = sheet.bands.findIndex((band) => band.id === id);
    if (to.between === "bands") editing.change("move a band", moveBand(id, to.at > from ? to.at - 1 : to.at));
    return;
  }
  const from = placeOf(sheet, id);
  if (!from) return;
  if (to.between === "plates") {
    const within = from.band.id === to.band && to.at > from.at ? to.at - 1 : to.at;
    return editing.change("move a plate", movePlate(id, to.band, within));
  }
  const plate = from.band.plates[from.at];
  const band = newPartId();
  editing.change("move a plate into a band of its own", (draft) => {
    removePlate(id)(draft);
    addBand({ id: band, title: "", folded: false, plates: [] }, to.at)(draft);
    addPlate(plate, band, 0)(draft);
  });
}

export function LandingScope({
  editing,
  children,
}: {
  editing: Editing;
  children: (dragged: Dragged | null) => ReactNode;
}) {
  const [dragged, setDragged] = useState<Dragged | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const begin = ({ active }: DragStartEvent) => setDragged(active.data.current as Dragged);
  const end = ({ over }: DragEndEvent) => {
    const to = over?.data.current as Landing | undefined;
    if (dragged && to) land(editing, dragged, to);
    setDragged(null);
  };
  return (
    <DndContext
      id="sheet"
      sensors={sensors}
      collisionDetection={near}
      onDragStart={begin}
      onDragEnd={end}
      onDragCancel={() => setDragged(null)}
    >
      {children(dragged)}
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <p className="plate inline-block px-3 py-2 font-bold shadow-lg">{draggedWords(editing.sheet, dragged)}</p>
        )}
      </DragOverlay>
    </DndContext>
  );
}

function draggedWords(sheet: Sheet, { what, id }: Dragged): string {
  if (what === "band") return sheet.bands.find((band) => band.id === id)?.title || "a band";
  const plate = platesOf(sheet).find((one) => one.id === id);
  return plate ? plateWords(plate) : "";
}

/** Where a dragged plate can land in a band, before the plate at a place; drawn only while one is dragged. */
export function PlateGap({
  sheet,
  band,
  at,
  dragged,
}: {
  sheet: Sheet;
  band: string;
  at: number;
  dragged: Dragged | null;
}) {
  const landing: Landing = { between: "plates", band, at };
  const found = sheet.bands.find(({ id }) => id === band);
  const full = dragged?.what === "plate" && found !== undefined && !hasRoom(found, dragged.id);
  const { setNodeRef, isOver } = useDroppable({ id: `gap ${band} ${at}`, data: landing, disabled: full });
  if (dragged?.what !== "plate") return null;
  return (
    <div
      ref={setNodeRef}
      className={`w-8 shrink-0 self-stretch rounded-sm border-2 border-dashed ${
        full
          ? "border-error/30 bg-[repeating-linear-gradient(45deg,transparent,transparent_5px,color-mix(in_srgb,var(--color-error)_18%,transparent)_5px,color-mix(in_srgb,var(--color-error)_18%,transparent)_7px)]"
          : isOver
            ? "border-primary bg-primary/25"
            : "border-primary/40"
      }`}
      title={full ? "this band is full" : undefined}
    />
  );
}

/** Where a dragged band can land, or a plate that gets a band of its own. */
export function BandGap({ at, dragged }: { at: number; dragged: Dragged | null }) {
  const landing: Landing = { between: "bands", at };
  const { setNodeRef, isOver } = useDroppable({ id: `bands ${at}`, data: landing });
  if (!dragged) return null;
  return (
    <div
      ref={setNodeRef}
      className={`my-1 h-6 rounded-sm border-2 border-dashed ${isOver ? "border-primary bg-primary/25" : "border-primary/40"}`}
    />
  );
}

/** What a plate or a band is taken by. Keys do the same as dragging. */
export function Handle({
  dragged,
  label,
  onKey,
  children,
}: {
  dragged: Dragged;
  label: string;
  /** @returns whether the key does something */
  onKey: (event: React.KeyboardEvent) => boolean;
  children: ReactNode;
}) {
  const { listeners, setNodeRef } = useDraggable({ id: `${dragged.what} ${dragged.id}`, data: dragged });
  return (
    <button
      ref={setNodeRef}
      type="button"
      data-handle={dragged.id}
      className="cursor-grab touch-none px-1 text-muted hover:text-base-content"
      aria-label={label}
      {...listeners}
      onKeyDown={(event) => {
        if (onKey(event)) {
          event.preventDefault();
          event.stopPropagation();
        }
      }}
    >
      {children}
    </button>
  );
}
