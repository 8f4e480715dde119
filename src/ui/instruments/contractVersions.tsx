"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { ContractEntry } from "@/core/contract/contract";
import { ProblemNote } from "../frame/problemNote";
import { moment } from "../frame/times";
import { postJson } from "../query/api";

/** Every version of a contract; an older one can be made the latest again. */
export function ContractVersions({
  versions,
  onRestored,
}: {
  versions: readonly ContractEntry[];
  onRestored: () => void;
}) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<unknown>(null);
  const restore = async ({ version, body }: ContractEntry) => {
    try {
      await postJson("/api/contracts", { body, note: `as in version ${version} again`, who: "restored" });
      setProblem(null);
      await client.invalidateQueries({ queryKey: ["contract"] });
      onRestored();
    } catch (error) {
      setProblem(error);
    }
  };
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
            {i > 0 && one.body !== null && (
              <button type="button" className="slot" onClick={() => void restore(one)}>
                make it the latest again
              </button>
            )}
          </li>
        ))}
      </ul>
      {problem !== null && <ProblemNote error={problem} />}
    </section>
  );
}
