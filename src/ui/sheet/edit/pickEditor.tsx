"use client";

import { useState } from "react";
import { shortAttribute } from "@/core/reading/language/tree";
import { faultText } from "@/core/schema/fault";
import type { Chosen } from "@/core/sheet/chosen";
import { addPick, changePick, removePick, stepPick } from "@/core/sheet/edit";
import { type Pick, type PickSource, pick as pickSchema } from "@/core/sheet/pick";
import { missingPicks, pickOrder, picksFor, renamePick, usesOfPick } from "@/core/sheet/pickText";
import { Dialog } from "../../frame/dialog";
import { ProblemNote } from "../../frame/problemNote";
import { usePickValues } from "../../query/sheets";
import { useAttributes, useMetrics } from "../../query/use";
import { Slot } from "../../sentence/slot";
import type { Editing } from "./editing";
import { TextField } from "./textField";

/** The picks of a sheet: made, changed, renamed, put into another order, taken out. */

const SOURCES: readonly { value: PickSource["of"]; label: string }[] = [
  { value: "values", label: "values of an attribute" },
  { value: "list", label: "a list" },
  { value: "text", label: "whatever is typed" },
  { value: "releases", label: "releases" },
  { value: "services", label: "services" },
  { value: "environments", label: "environments" },
];

function sourceOf(of: PickSource["of"], before: PickSource): PickSource {
  if (before.of === of) return before;
  switch (of) {
    case "values":
      return { of, attribute: "service.name", metric: "", where: "", pattern: "" };
    case "list":
      return { of, values: ["a"] };
    case "releases":
      return { of, service: "" };
    default:
      return { of };
  }
}

/** Values of an attribute: of which metric, under which condition, cut by which pattern. */
function ValuesPart({
  source,
  onChange,
}: {
  source: Extract<PickSource, { of: "values" }>;
  onChange: (source: PickSource) => void;
}) {
  const metrics = useMetrics().data ?? [];
  const attributes = useAttributes(source.metric).data ?? [];
  return (
    <p className="mt-1 leading-loose">
      of{" "}
      <Slot
        name="metric of the pick"
        options={[
          { value: "", label: "any metric" },
          ...[...new Set(metrics.map(({ name }) => name))].map((value) => ({ value })),
        ]}
        onChoose={(metric) => onChange({ ...source, metric, where: metric === "" ? "" : source.where })}
      >
        {source.metric || "any metric"}
      </Slot>
      , the attribute{" "}
      <Slot
        name="attribute of the pick"
        options={attributes.map(({ name, values }) => ({ value: shortAttribute(name), note: `${values.length}` }))}
        accept={(text) => (text === "" ? "write a name" : null)}
        onChoose={(attribute) => onChange({ ...source, attribute })}
      >
        {source.attribute}
      </Slot>
      <span className="mt-1 flex flex-wrap gap-3">
        {source.metric !== "" && (
          <TextField
            label="where (other picks as <name>)"
            width="w-64"
            placeholder="depot is <depot>"
            value={source.where}
            onChange={(where) => onChange({ ...source, where })}
          />
        )}
        <TextField
          label="cut out by a pattern (its first group)"
          width="w-56"
          placeholder="^([A-Z]+)-"
          value={source.pattern}
          onChange={(pattern) => onChange({ ...source, pattern })}
        />
      </span>
    </p>
  );
}

function Preview({ pick, chosen }: { pick: Pick; chosen: Chosen }) {
  const { data, error, isFetching } = usePickValues(pick, picksFor(pick, chosen), null);
  if (pick.source.of === "text") return null;
  if (error) return <ProblemNote error={error} />;
  if (!data) return isFetching ? <p className="text-[12.5px] text-muted">Looking for values…</p> : null;
  return (
    <div className="mt-1 text-[12.5px] text-muted" aria-live="polite">
      <p>
        {data.all} {data.all === 1 ? "value" : "values"}
        {data.all > 0 && ": "}
        <span className="num">
          {data.values
            .slice(0, 8)
            .map(({ value }) => value)
            .join(", ")}
          {data.all > 8 && " …"}
        </span>
      </p>
      {data.cut.length > 0 && (
        <ul className="num mt-0.5">
          {data.cut.slice(0, 5).map(({ from, to }) => (
            <li key={from}>
              {from} → {to === null ? <span className="text-warning">nothing</span> : <b>{to}</b>}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function PickPart({
  pick,
  editing,
  chosen,
  place,
  count,
}: {
  pick: Pick;
  editing: Editing;
  chosen: Chosen;
  place: number;
  count: number;
}) {
  const [name, setName] = useState(pick.name);
  const uses = usesOfPick(editing.sheet, pick.name);
  const set = (next: Pick, does = "change a pick", typed = false) => {
    // What is no pick yet, such as half a pattern, is said, and kept in the store once it is whole.
    editing.change(does, changePick(pick.name, next), typed);
  };
  const taken = editing.sheet.picks.some((one) => one.name === name && one.name !== pick.name);
  const fine = pickSchema.shape.name.safeParse(name).success && !taken;
  const rename = () => {
    if (fine && name !== pick.name)
      editing.change("rename a pick", (draft) => {
        Object.assign(draft, renamePick(editing.sheet, pick.name, name));
      });
  };
  const problem = faultText(pickSchema.safeParse(pick).error?.issues[0]?.message ?? "");
  return (
    <fieldset className="mt-3 border-t border-base-300 pt-2">
      <legend className="sr-only">The pick {pick.name}</legend>
      <p className="flex flex-wrap items-end gap-3">
        <label className="inline-block">
          <span className="block text-[12px] text-muted">called in readings</span>
          <input
            className="input input-sm num w-32"
            value={name}
            aria-invalid={!fine}
            onChange={(event) => setName(event.target.value)}
            onBlur={rename}
            onKeyDown={(event) => {
              if (event.key === "Enter") rename();
            }}
          />
        </label>
        <TextField
          label="in the sentence"
          width="w-40"
          value={pick.words}
          onChange={(words) => set({ ...pick, words }, "word a pick", true)}
        />
        <span className="ml-auto flex gap-3 text-[12.5px]">
          {place > 0 && (
            <button
              type="button"
              className="slot"
              onClick={() => editing.change("move a pick", stepPick(pick.name, -1))}
            >
              earlier
            </button>
          )}
          {place < count - 1 && (
            <button
              type="button"
              className="slot"
              onClick={() => editing.change("move a pick", stepPick(pick.name, 1))}
            >
              later
            </button>
          )}
          <button
            type="button"
            className="slot"
            aria-label={`take the pick ${pick.name} out`}
            onClick={() => editing.change("take a pick out", removePick(pick.name))}
          >
            take out
          </button>
        </span>
      </p>
      {!fine && (
        <p className="text-[13px] text-error">
          ✕ {taken ? "another pick is called so" : "a name begins with a letter, and has no blanks"}
        </p>
      )}
      <p className="mt-1 leading-loose">
        chosen from{" "}
        <Slot
          name="where its values come from"
          options={SOURCES}
          onChoose={(of) => set({ ...pick, source: sourceOf(of as PickSource["of"], pick.source) })}
        >
          {SOURCES.find(({ value }) => value === pick.source.of)?.label}
        </Slot>
        ,{" "}
        <Slot
          name="how many"
          options={[
            { value: "one", label: "one at a time" },
            { value: "several", label: "several at once" },
          ]}
          onChoose={(value) => set({ ...pick, many: value === "several" })}
        >
          {pick.many ? "several at once" : "one at a time"}
        </Slot>
        ,{" "}
        <Slot
          name="whether all may be"
          options={[
            { value: "yes", label: "or any" },
            { value: "no", label: "never all" },
          ]}
          onChoose={(value) => set({ ...pick, all: value === "yes" })}
        >
          {pick.all ? "or any" : "never all"}
        </Slot>
      </p>
      {pick.source.of === "values" && (
        <ValuesPart
          source={pick.source}
          onChange={(source) => set({ ...pick, source }, "choose the values of a pick", true)}
        />
      )}
      {pick.source.of === "list" && (
        <TextField
          label="values, one behind the other with commas"
          width="w-full"
          value={pick.source.values.join(", ")}
          onChange={(text) =>
            set(
              { ...pick, source: { of: "list", values: text.split(",").map((one) => one.trimStart()) } },
              "list the values of a pick",
              true,
            )
          }
        />
      )}
      {pick.source.of === "releases" && (
        <TextField
          label="of the service (or a pick of services as <name>); empty for all"
          width="w-72"
          value={pick.source.service}
          onChange={(service) => set({ ...pick, source: { of: "releases", service } }, "choose whose releases", true)}
        />
      )}
      <TextField
        label="preset, one behind the other with commas; empty for any"
        width="w-72"
        value={pick.preset.join(", ")}
        onChange={(text) =>
          set({ ...pick, preset: text === "" ? [] : text.split(",").map((one) => one.trim()) }, "preset a pick", true)
        }
      />
      {problem ? <p className="text-[13px] text-error">✕ {problem}</p> : <Preview pick={pick} chosen={chosen} />}
      <p className="text-[12.5px] text-muted">
        {uses.length === 0 ? "Nothing uses it yet." : `Used by ${uses.join(", ")}.`}
      </p>
    </fieldset>
  );
}

/** A name that no pick has yet. */
function freshName(picks: readonly Pick[], wanted: string): string {
  const base = wanted.replace(/[^\p{L}\p{N}_]+/gu, "_").replace(/^[^\p{L}_]+/u, "") || "pick";
  const taken = (name: string) => picks.some((one) => one.name === name);
  if (!taken(base)) return base;
  for (let i = 2; ; i++) if (!taken(`${base}${i}`)) return `${base}${i}`;
}

/** A pick of an attribute. */
export function newPick(picks: readonly Pick[], attribute: string, metric = "", preset: string[] = []): Pick {
  const short = shortAttribute(attribute);
  return pickSchema.parse({
    name: freshName(picks, short.split(".").at(-1) ?? short),
    words: short.replaceAll(".", " "),
    source: { of: "values", attribute: short, metric },
    many: true,
    preset,
  });
}

export function PickDialog({
  editing,
  chosen,
  open,
  onClose,
}: {
  editing: Editing;
  chosen: Chosen;
  open: boolean;
  onClose: () => void;
}) {
  const { picks } = editing.sheet;
  const { ring } = pickOrder(picks);
  const missing = missingPicks(editing.sheet);
  const add = (name: string, attribute = "service.name") => {
    const made = newPick(picks, attribute);
    editing.change("add a pick", addPick(name === "" ? made : { ...made, name, words: name }));
  };
  return (
    <Dialog title="Picks" open={open} onClose={onClose} wide>
      <h2 className="text-base font-bold">Picks</h2>
      <p className="text-[13px] text-muted">
        Readings refer to a pick as <span className="num">&lt;name&gt;</span>:{" "}
        <span className="num">where depot is &lt;depot&gt;</span>. Together they are the sentence at the head of the
        sheet.
      </p>
      {ring.length > 0 && (
        <p className="text-error">✕ {ring.join(" and ")} wait for each other, and can never be filled.</p>
      )}
      {missing.map(({ name, uses }) => (
        <p key={name} className="text-warning">
          ◆ <span className="num">&lt;{name}&gt;</span> is named by {uses.join(", ")} and is not there.{" "}
          <button type="button" className="slot" onClick={() => add(name, name)}>
            make it
          </button>
        </p>
      ))}
      {picks.map((pick, place) => (
        <PickPart key={pick.name} pick={pick} editing={editing} chosen={chosen} place={place} count={picks.length} />
      ))}
      <p className="mt-3 flex gap-3">
        <button type="button" className="btn btn-sm" onClick={() => add("")}>
          Add a pick
        </button>
        <button type="button" className="btn btn-sm ml-auto" onClick={onClose}>
          Done
        </button>
      </p>
    </Dialog>
  );
}
