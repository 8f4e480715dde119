import { useState } from "react";
import { FOLDS, type Fold } from "@/core/pipeline/parts";
import { Blank } from "../sentence/blank";
import { Slot } from "../sentence/slot";
import { FOLD_WORDS } from "./words";

/** Parts of sentences about steps and exporters: each changes one setting in place. */

export interface Part {
  of: object;
  /** Changes some of the settings. */
  onChange: (part: object) => void;
}

export const options = (all: readonly string[], words: Readonly<Record<string, string>> = {}) =>
  all.map((value) => ({ value, label: words[value] ?? value }));

function held(of: object, field: string): unknown {
  return (of as Record<string, unknown>)[field];
}

export function Text({
  of,
  onChange,
  field,
  name,
  placeholder,
}: Part & { field: string; name: string; placeholder?: string }) {
  const value = String(held(of, field) ?? "");
  return <Blank name={name} value={value} placeholder={placeholder} onChange={(text) => onChange({ [field]: text })} />;
}

/** A number that is being written: half of one ("0.") stays as it was typed until the value is another. */
function NumberBlank({
  name,
  value,
  placeholder,
  onChange,
}: {
  name: string;
  value: number | null;
  placeholder?: string;
  onChange: (value: number | null) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const read = (text: string) => (text.trim() === "" ? null : Number(text));
  const shown = typed !== null && Object.is(read(typed), value) ? typed : value === null ? "" : String(value);
  const change = (text: string) => {
    setTyped(text);
    onChange(read(text));
  };
  return <Blank name={name} value={shown} placeholder={placeholder} onChange={change} />;
}

/** A number; one that may be missing is null where nothing is written. */
export function Amount({
  of,
  onChange,
  field,
  name,
  placeholder,
}: Part & { field: string; name: string; placeholder?: string }) {
  const value = (held(of, field) as number | null | undefined) ?? null;
  return (
    <NumberBlank
      name={name}
      value={value}
      placeholder={placeholder}
      onChange={(number) => onChange({ [field]: number })}
    />
  );
}

/** A part of a whole, written in per cent. */
export function Percent({ of, onChange, field, name }: Part & { field: string; name: string }) {
  const share = held(of, field) as number | null;
  // So many digits as tell a millionth of a part.
  const value = share === null ? null : Number((share * 100).toFixed(4));
  return (
    <>
      <NumberBlank
        name={name}
        value={value}
        onChange={(number) => onChange({ [field]: number === null ? null : Number((number / 100).toFixed(6)) })}
      />{" "}
      %
    </>
  );
}

/** Names, or numbers, with commas. */
export function List({
  of,
  onChange,
  field,
  name,
  numbers = false,
}: Part & { field: string; name: string; numbers?: boolean }) {
  const value = (held(of, field) as (string | number)[] | undefined) ?? [];
  const read = (text: string) => {
    const parts = text.split(",").map((one) => one.trimStart());
    return numbers ? parts.filter((one) => one.trim() !== "").map(Number) : text === "" ? [] : parts;
  };
  return <Blank name={name} value={value.join(", ")} onChange={(text) => onChange({ [field]: read(text) })} />;
}

/** One of several, each in words. */
export function Choice({
  of,
  onChange,
  field,
  name,
  words,
}: Part & { field: string; name: string; words: Readonly<Record<string, string>> }) {
  const value = String(held(of, field));
  return (
    <Slot name={name} options={options(Object.keys(words), words)} onChoose={(chosen) => onChange({ [field]: chosen })}>
      {words[value] ?? value}
    </Slot>
  );
}

/** Yes or no, in words. */
export function Either({
  of,
  onChange,
  field,
  name,
  yes,
  no,
}: Part & { field: string; name: string; yes: string; no: string }) {
  const value = held(of, field) === true;
  return (
    <Slot
      name={name}
      options={options(["yes", "no"], { yes, no })}
      onChoose={(chosen) => onChange({ [field]: chosen === "yes" })}
    >
      {value ? yes : no}
    </Slot>
  );
}

/** Which ready patterns fold, and one of the team's own. */
export function Folds({ of, onChange }: Part) {
  const { folds, own } = of as { folds: Fold[]; own: { pattern: string; to: string }[] };
  const toggle = (name: string) =>
    onChange({ folds: FOLDS.filter((one) => (one === name ? !folds.includes(one) : folds.includes(one))) });
  const [first] = own;
  return (
    <>
      <Slot
        name="what is folded"
        options={FOLDS.map((value) => ({ value, label: FOLD_WORDS[value], note: folds.includes(value) ? "✓ on" : "" }))}
        onChoose={toggle}
      >
        {folds.map((one) => FOLD_WORDS[one]).join(", ") || "nothing ready-made"}
      </Slot>{" "}
      and what{" "}
      <Blank
        name="own pattern"
        value={first?.pattern ?? ""}
        placeholder="own pattern"
        onChange={(pattern) => onChange({ own: pattern === "" ? [] : [{ pattern, to: first?.to ?? "{id}" }] })}
      />
      {first && (
        <>
          {" "}
          finds, as{" "}
          <Blank
            name="stands for the pattern"
            value={first.to}
            onChange={(to) => onChange({ own: [{ ...first, to }] })}
          />
        </>
      )}
    </>
  );
}
