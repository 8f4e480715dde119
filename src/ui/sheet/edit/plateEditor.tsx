"use client";

import { lazy, Suspense, useState } from "react";
import { parseReading } from "@/core/reading/language/parse";
import { ReadingError } from "@/core/reading/language/tree";
import { changePlate } from "@/core/sheet/edit";
import { kindOfLook, LOOKS, type Look, lookAs } from "@/core/sheet/looks";
import { ORDERS } from "@/core/sheet/looks/definition";
import { type Plate, type PlateReading, plateReading, type ReadingsPlate, SHEET_LIMITS } from "@/core/sheet/sheet";
import { useMetrics } from "../../query/use";
import { ReadingSentence } from "../../sentence/readingSentence";
import { Slot } from "../../sentence/slot";
import type { Editing } from "./editing";

const ReadingEditor = lazy(async () => ({ default: (await import("../../sentence/editor")).ReadingEditor }));

/** Changes a plate. What is typed letter by letter is one change. */
type Put = (plate: Plate, does: string, typed?: boolean) => void;

const FIELD = "input input-sm";

function TextField({
  label,
  value,
  onChange,
  width = "w-40",
  placeholder,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  width?: string;
  placeholder?: string;
}) {
  return (
    <label className="inline-block align-bottom">
      <span className="block text-[12px] text-muted">{label}</span>
      <input
        className={`${FIELD} ${width}`}
        value={value}
        placeholder={placeholder}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}

/** A reading of a plate: as a text, as a sentence, and how its values are written. */
function ReadingPart({
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

const COUNTS = ["3", "5", "6", "10", "20", "40"].map((value) => ({ value }));

/** The settings of a way to look, as a sentence: each way has those that it needs. */
function LookSentence({ look, onChange }: { look: Look; onChange: (look: Look, typed?: boolean) => void }) {
  const set = (part: object) => onChange({ ...look, ...part } as Look);
  const type = (part: object) => onChange({ ...look, ...part } as Look, true);
  return (
    <p className="mt-2 leading-loose">
      Looked at as{" "}
      <Slot
        name="way to look"
        options={LOOKS.map(({ as, name, note }) => ({ value: as, label: name, note }))}
        onChoose={(as) => onChange(lookAs(as as Look["as"], look))}
      >
        {kindOfLook(look.as).name}
      </Slot>
      {"over" in look && (
        <>
          , a bar for each{" "}
          <Slot
            name="what a bar is for"
            options={[
              { value: "time", label: "step in time" },
              { value: "values", label: "series" },
            ]}
            onChoose={(over) => set({ over })}
          >
            {look.over === "time" ? "step in time" : "series"}
          </Slot>
        </>
      )}
      {"order" in look && (
        <>
          ,{" "}
          <Slot name="order" options={ORDERS.map((value) => ({ value }))} onChoose={(order) => set({ order })}>
            {look.order}
          </Slot>
        </>
      )}
      {"top" in look && (
        <>
          , showing{" "}
          <Slot
            name="how many are shown"
            options={[{ value: "", label: "as many as there is room for" }, ...COUNTS]}
            accept={(text) => (/^[1-9]\d?$/.test(text) && Number(text) <= 60 ? null : "a number up to 60")}
            onChoose={(count) => set({ top: count === "" ? null : Number(count) })}
          >
            {look.top === null ? "as many as there is room for" : `the ${look.top} largest`}
          </Slot>
        </>
      )}
      {"rest" in look && (
        <>
          , the rest{" "}
          <Slot
            name="what becomes of the rest"
            options={[
              { value: "no", label: "counted" },
              { value: "yes", label: "added up" },
            ]}
            onChoose={(value) => set({ rest: value === "yes" })}
          >
            {look.rest ? "added up" : "counted"}
          </Slot>
        </>
      )}
      {"log" in look && (
        <>
          , on a{" "}
          <Slot
            name="kind of axis"
            options={[
              { value: "no", label: "plain" },
              { value: "yes", label: "logarithmic" },
            ]}
            onChoose={(value) => set({ log: value === "yes" })}
          >
            {look.log ? "logarithmic" : "plain"}
          </Slot>{" "}
          axis
        </>
      )}
      {"sums" in look && (
        <>
          ,{" "}
          <Slot
            name="sums"
            options={[
              { value: "no", label: "without sums" },
              { value: "yes", label: "with sums" },
            ]}
            onChoose={(value) => set({ sums: value === "yes" })}
          >
            {look.sums ? "with sums" : "without sums"}
          </Slot>
          ,{" "}
          <Slot
            name="bars in cells"
            options={[
              { value: "no", label: "without bars" },
              { value: "yes", label: "with bars" },
            ]}
            onChoose={(value) => set({ bars: value === "yes" })}
          >
            {look.bars ? "with bars" : "without bars"}
          </Slot>
        </>
      )}
      {"against" in look && (
        <>
          , against{" "}
          <Slot
            name="what it is held against"
            options={[
              { value: "", label: "nothing" },
              { value: "1h", label: "an hour before" },
              { value: "1d", label: "a day before" },
              { value: "1w", label: "a week before" },
              { value: "4w", label: "four weeks before" },
            ]}
            onChoose={(against) => set({ against })}
          >
            {
              {
                "": "nothing",
                "1h": "an hour before",
                "1d": "a day before",
                "1w": "a week before",
                "4w": "four weeks before",
              }[look.against]
            }
          </Slot>
          , where{" "}
          <Slot
            name="what is good"
            options={[
              { value: "neither", label: "neither way is good" },
              { value: "up", label: "more is good" },
              { value: "down", label: "less is good" },
            ]}
            onChoose={(good) => set({ good })}
          >
            {{ neither: "neither way is good", up: "more is good", down: "less is good" }[look.good]}
          </Slot>
        </>
      )}
      {"from" in look && (
        <span className="ml-3 inline-flex gap-3">
          <TextField label="axis from" width="w-20" value={look.from} onChange={(from) => type({ from })} />
          <TextField label="to" width="w-20" value={look.to} onChange={(to) => type({ to })} />
        </span>
      )}
      {"link" in look && (
        <span className="ml-3 inline-flex">
          <TextField
            label="a row leads to"
            width="w-72"
            placeholder="/services/one?service={service.name}"
            value={look.link}
            onChange={(link) => type({ link })}
          />
        </span>
      )}
    </p>
  );
}

/** Levels that mean something. */
function Thresholds({
  look,
  onChange,
}: {
  look: Extract<Look, { thresholds: unknown }>;
  onChange: (look: Look) => void;
}) {
  const [draft, setDraft] = useState({ at: "", word: "", wrong: "above" as const as "above" | "below" | "neither" });
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
            disabled={!/^-?\d+(\.\d+)?(\s*\S+)?$/.test(draft.at.trim()) || draft.word.trim() === ""}
            onClick={() => {
              set([...look.thresholds, { ...draft, at: draft.at.trim(), word: draft.word.trim() }]);
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

function ReadingsEditor({ plate, put }: { plate: ReadingsPlate; put: Put }) {
  const { readings, look } = plate;
  const setReading = (place: number, reading: PlateReading, does: string, typed = false) =>
    put({ ...plate, readings: readings.map((one, i) => (i === place ? reading : one)) }, does, typed);
  const most = Math.min(SHEET_LIMITS.readings, kindOfLook(look.as).most);
  return (
    <>
      {readings.map((reading, place) => (
        <ReadingPart
          key={place}
          reading={reading}
          place={place}
          onChange={(next, does, typed) => setReading(place, next, does, typed)}
          onRemove={
            readings.length > 1
              ? () => put({ ...plate, readings: readings.filter((_, i) => i !== place) }, "take a reading out")
              : null
          }
        />
      ))}
      {readings.length < most && (
        <button
          type="button"
          className="slot mt-2"
          onClick={() =>
            put(
              { ...plate, readings: [...readings, plateReading.parse({ text: readings[readings.length - 1].text })] },
              "add a reading",
            )
          }
        >
          add a reading
        </button>
      )}
      <LookSentence
        look={look}
        onChange={(next, typed) => put({ ...plate, look: next }, "look at it another way", typed)}
      />
      {"thresholds" in look && (
        <Thresholds look={look} onChange={(next) => put({ ...plate, look: next }, "change the levels")} />
      )}
    </>
  );
}

/** Gives the focus to a field that was opened to be written in. */
function focusFirst(field: HTMLInputElement | null): void {
  field?.focus();
}

/** Changes a plate, beside its live picture. */
export function PlateEditor({ plate, editing, onClose }: { plate: Plate; editing: Editing; onClose: () => void }) {
  const put: Put = (next, does, typed = false) =>
    editing.change(
      does,
      changePlate(plate.id, () => next),
      typed,
    );
  return (
    <section
      aria-label={`Edit ${plate.title || "the plate"}`}
      className="plate mt-2 border-l-4 border-l-primary px-4 py-3"
      onKeyDown={(event) => {
        if (event.key === "Escape" && !event.defaultPrevented) onClose();
      }}
    >
      <div className="flex items-end gap-3">
        <label className="flex-1">
          <span className="block text-[12px] text-muted">title; a pick stands in it as &lt;name&gt;</span>
          <input
            className={`${FIELD} w-full`}
            ref={focusFirst}
            value={plate.title}
            maxLength={120}
            onChange={(event) => put({ ...plate, title: event.target.value }, "name a plate", true)}
          />
        </label>
        <button type="button" className="btn btn-sm" onClick={onClose}>
          Done
        </button>
      </div>
      {plate.holds === "note" ? (
        <label className="mt-2 block">
          <span className="block text-[12px] text-muted">the note, in Markdown</span>
          <textarea
            className="textarea num h-40 w-full text-[13px]"
            value={plate.note}
            maxLength={SHEET_LIMITS.note}
            onChange={(event) => put({ ...plate, note: event.target.value }, "write a note", true)}
          />
        </label>
      ) : (
        <ReadingsEditor plate={plate} put={put} />
      )}
    </section>
  );
}
