"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { ContractBody } from "@/core/contract/contract";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";

/** Saves a contract as its next version, with a note. */
export function ContractSaving({
  body,
  from,
  onSaved,
}: {
  body: ContractBody | null;
  /** What the changes began from; version 0: there was none. */
  from: { name: string; version: number };
  onSaved: (name: string, version: number) => void;
}) {
  const client = useQueryClient();
  const [note, setNote] = useState("");
  const [problem, setProblem] = useState<unknown>(null);
  // What others save while it is edited must not pass for what was seen.
  const [based, setBased] = useState(from);
  const save = async () => {
    if (!body) return;
    try {
      const { version } = await ask("POST /api/contracts", {
        body: { body, note, based: body.name === based.name ? based.version : 0 },
      });
      setBased({ name: body.name, version });
      setProblem(null);
      setNote("");
      await client.invalidateQueries({ queryKey: ["contract"] });
      await client.invalidateQueries({ queryKey: ["instrument"] });
      onSaved(body.name, version);
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <section className="plate mt-3 px-3 py-2">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <label className="flex-1">
          <span className="block text-[12.5px] text-muted">what changed, in a few words</span>
          <input className="input input-sm w-full" value={note} onChange={(event) => setNote(event.target.value)} />
        </label>
        <OnlyWith right="edit" what="To save it">
          <button type="submit" className="btn btn-sm btn-primary" disabled={!body}>
            Save the contract
          </button>
        </OnlyWith>
      </form>
      {problem !== null && <ProblemNote error={problem} />}
    </section>
  );
}
