"use client";

import { useEffect, useRef } from "react";
import { shortAttribute } from "@/core/reading/language/tree";
import type { Hold } from "@/core/sheet/holds";
import Link from "../frame/link";

/** A value that somebody chose on a plate. */
export interface ChosenValue {
  labels: Record<string, string | null>;
  at: { x: number; y: number };
  /** The reading that it stands in. */
  text: string;
}

/** What can be done with a value: hold the sheet to it, leave it out, make a pick of it, open the reading on Scratch. */
export function ValueMenu({
  chosen,
  onHold,
  onPick,
  scratch,
  onClose,
}: {
  chosen: ChosenValue;
  onHold: (hold: Hold) => void;
  /** Makes a pick of an attribute; missing where the sheet cannot be changed. */
  onPick?: ((attribute: string, value: string) => void) | undefined;
  /** The address of the reading on Scratch. */
  scratch: string;
  onClose: () => void;
}) {
  const holder = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const back = document.activeElement as HTMLElement | null;
    holder.current?.querySelector("button")?.focus();
    const outside = (event: PointerEvent) => {
      if (!holder.current?.contains(event.target as Node)) onClose();
    };
    document.addEventListener("pointerdown", outside);
    return () => {
      document.removeEventListener("pointerdown", outside);
      back?.focus();
    };
  }, [onClose]);
  const does = (work: () => void) => () => {
    onClose();
    work();
  };
  const { x, y } = chosen.at;
  return (
    <div
      ref={holder}
      role="dialog"
      aria-label="What to do with this value"
      className="plate fixed z-40 w-72 p-2 text-[13.5px] shadow-lg"
      style={{ left: Math.min(x, window.innerWidth - 300), top: Math.min(y + 4, window.innerHeight - 220) }}
      onKeyDown={(event) => {
        if (event.key === "Escape") {
          event.stopPropagation();
          onClose();
        }
      }}
    >
      {Object.entries(chosen.labels).map(([attribute, value]) => (
        <div key={attribute} className="mb-2">
          <p className="font-semibold">
            {shortAttribute(attribute)} <span className="num">{value ?? "missing"}</span>
          </p>
          <p className="mt-0.5 flex flex-wrap gap-x-3">
            <button type="button" className="slot" onClick={does(() => onHold({ attribute, value, only: true }))}>
              hold the sheet to it
            </button>
            <button type="button" className="slot" onClick={does(() => onHold({ attribute, value, only: false }))}>
              leave it out
            </button>
            {onPick && value !== null && (
              <button type="button" className="slot" onClick={does(() => onPick(attribute, value))}>
                make a pick of it
              </button>
            )}
          </p>
        </div>
      ))}
      <Link href={scratch} className="slot">
        open the reading on Scratch
      </Link>
    </div>
  );
}
