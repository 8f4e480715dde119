"use client";

import { useState } from "react";
import { changeHead } from "@/core/sheet/edit";
import type { Editing } from "./editing";

function asList(text: string): string[] {
  return [
    ...new Set(
      text
        .split(",")
        .map((one) => one.trim())
        .filter(Boolean),
    ),
  ];
}

/** A list that is typed with commas: it is taken when the field is left. */
function ListField({
  label,
  hint,
  values,
  onChange,
}: {
  label: string;
  hint: string;
  values: readonly string[];
  onChange: (values: string[]) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const take = () => {
    if (text !== null) onChange(asList(text));
    setText(null);
  };
  return (
    <label className="flex-1">
      <span className="block text-[12px] text-muted">{label}</span>
      <input
        className="input input-sm w-full"
        placeholder={hint}
        value={text ?? values.join(", ")}
        onChange={(event) => setText(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === "Enter") take();
        }}
      />
    </label>
  );
}

/** Name, purpose, tags and readers of a sheet. */
export function HeadEditor({ editing }: { editing: Editing }) {
  const { name, purpose, tags, readers } = editing.sheet;
  return (
    <div className="plate mb-2 grid grid-cols-1 gap-x-4 gap-y-2 px-4 py-3 md:grid-cols-2">
      <label>
        <span className="block text-[12px] text-muted">name</span>
        <input
          className="input input-sm w-full font-bold"
          value={name}
          maxLength={120}
          aria-invalid={name.trim() === ""}
          onChange={(event) => editing.change("name the sheet", changeHead({ name: event.target.value }), true)}
        />
      </label>
      <label>
        <span className="block text-[12px] text-muted">what it is for, and for whom</span>
        <input
          className="input input-sm w-full"
          value={purpose}
          maxLength={500}
          onChange={(event) => editing.change("say what it is for", changeHead({ purpose: event.target.value }), true)}
        />
      </label>
      <ListField
        label="tags, with commas"
        hint="daily, loans"
        values={tags}
        onChange={(next) => editing.change("tag the sheet", changeHead({ tags: next.slice(0, 20) }))}
      />
      <ListField
        label="only for these readers (addresses for mail); empty for everybody"
        hint="everybody who may sign in"
        values={readers}
        onChange={(next) =>
          editing.change("choose the readers", changeHead({ readers: next.map((one) => one.toLowerCase()) }))
        }
      />
    </div>
  );
}
