"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { ContractEntry } from "@/core/contract/contract";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useMay } from "../query/me";
import { useTimes } from "../query/times";

/** Every version of a contract; it can be withdrawn, and an older one made the latest again. */
export function ContractVersions({
  versions,
  onChanged,
}: {
  versions: readonly ContractEntry[];
  onChanged: () => void;
}) {
  const { moment } = useTimes();
  const client = useQueryClient();
  const [problem, setProblem] = useState<unknown>(null);
  const mayEdit = useMay("edit");
  const [why, setWhy] = useState("");
  const [latest] = versions;
  const change = async (send: () => Promise<unknown>) => {
    try {
      await send();
      setProblem(null);
      setWhy("");
      await client.invalidateQueries({ queryKey: ["contract"] });
      await client.invalidateQueries({ queryKey: ["instrument"] });
      onChanged();
    } catch (error) {
      setProblem(error);
    }
  };
  const restore = ({ version, body }: ContractEntry) =>
    change(() =>
      ask("POST /api/contracts", {
        body: { body: body!, note: `as in version ${version} again`, based: latest.version },
      }),
    );
  const withdraw = () => change(() => ask("DELETE /api/contracts", { body: { name: latest.name, note: why } }));
  return (
    <section aria-label="Versions" className="plate mt-4 px-3 py-2">
      <h2 className="font-bold">Versions</h2>
      <ul className="text-[13px]">
        {versions.map((one, i) => (
          <li key={one.version} className="flex flex-wrap items-baseline gap-x-3 py-0.5">
            <span className="num font-semibold">{one.version}</span>
            <span className="num text-muted">{moment(one.at)}</span>
            <span>{one.who}</span>
            <span>
              {one.body === null ? "withdrawn: " : ""}
              {one.note}
            </span>
            {mayEdit && (i > 0 || latest.body === null) && one.body !== null && (
              <button type="button" className="slot" onClick={() => void restore(one)}>
                make it the latest again
              </button>
            )}
          </li>
        ))}
      </ul>
      {latest.body !== null && mayEdit && (
        <form
          className="mt-1 flex flex-wrap items-baseline gap-2 text-[13px]"
          onSubmit={(event) => {
            event.preventDefault();
            void withdraw();
          }}
        >
          <label>
            <span className="text-muted">No longer holds, because </span>
            <input className="input input-xs w-64" value={why} onChange={(event) => setWhy(event.target.value)} />
          </label>
          <button type="submit" className="btn btn-xs" disabled={why.trim() === ""}>
            Withdraw it
          </button>
        </form>
      )}
      {problem !== null && <ProblemNote error={problem} />}
    </section>
  );
}
