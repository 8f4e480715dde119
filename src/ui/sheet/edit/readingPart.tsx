"use client";

import { lazy, Suspense, useState } from "react";
import { parseReading } from "@/core/reading/language/parse";
import { ReadingError } from "@/core/reading/language/tree";
import type { PlateReading } from "@/core/sheet/sheet";
import { useMetrics } from "../../query/use";
import { ReadingSentence } from "../../sentence/readingSentence";
import { TextField } from "./textField";

const ReadingEditor = lazy(async () => ({ default: (await import("../../sentence/editor")).ReadingEditor }));

/** A reading of a plate: as a text, as a sentence, and how its values are written. */
export function ReadingPart({
  reading,
  place,
  onChange,
  onRemove,
}: {
  reading: PlateReading;
  place: number;
  onChange: (reading: PlateReading, does: string, typed?: boolean) => void;
  onRemove: (() => void) | null;
}) {
  const metrics = useMetrics();
  const [text, setText] = useState(reading.text);
  const [shownFor, setShownFor] = useState(reading.text);
  if (shownFor !== reading.text) {
    setShownFor(reading.text);
    setText(reading.text);
  }
  const take = (next: string) => {
    if (next.trim() !== "" && next.trim() !== reading.text)
      onChange({ ...reading, text: next.trim() }, "change a reading");
  };
  let tree: ReturnType<typeof parseReading> | ReadingError;
  try {
    tree = parseReading(text);
  } catch (error) {
    if (!(error instanceof ReadingError)) throw error;
    tree = error;
  }
  return (
    <fieldset className="mt-2 border-l-2 border-base-300 pl-3">
      <legend className="sr-only">Reading {place + 1}</legend>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: leaving the editor takes what was written */}
      <div
        className="flex items-center rounded-sm border border-base-300 bg-base-100"
        onBlur={() => {
          if (!(tree instanceof ReadingError)) take(text);
        }}
      >
        <Suspense fallback={<p className="num min-w-0 flex-1 truncate px-1.5 py-1.5">{text || " "}</p>}>
          <ReadingEditor text={text} onChange={setText} onAsk={take} metrics={metrics.data ?? []} focusKey={0} />
        </Suspense>
      </div>
      {tree instanceof ReadingError ? (
        <p role="alert" className="text-[13px] text-error">
          ✕ {tree.message} {tree.hint && <span className="text-muted">{tree.hint}</span>}
        </p>
      ) : (
        <div className="mt-0.5 text-[13.5px]">
          <ReadingSentence tree={tree} onChange={take} />
        </div>
      )}
      <p className="mt-1 flex flex-wrap items-end gap-3">
        <TextField
          label="series are called"
          placeholder="{depot}, {tool.kind}"
          value={reading.names}
          onChange={(names) => onChange({ ...reading, names }, "name the series", true)}
        />
        <TextField
          label="in the unit"
          width="w-20"
          placeholder="ms"
          value={reading.unit}
          onChange={(unit) => onChange({ ...reading, unit }, "choose the unit", true)}
        />
        <TextField
          label="decimals"
          width="w-16"
          value={reading.decimals === null ? "" : String(reading.decimals)}
          onChange={(given) =>
            onChange({ ...reading, decimals: /^\d$/.test(given) ? Number(given) : null }, "choose the decimals", true)
          }
        />
        {onRemove && (
          <button type="button" className="slot" onClick={onRemove}>
            take this reading out
          </button>
        )}
      </p>
    </fieldset>
  );
}
