"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Dialog } from "../frame/dialog";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";

/** What putting a name right changes on all sheets, and doing it in one step. */
export function RepairDialog({ from, to, onClose }: { from: string; to: string; onClose: () => void }) {
  const client = useQueryClient();
  const [done, setDone] = useState<number | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const body = { what: "metric" as const, of: "", from, to };
  const { data, error } = useQuery({
    queryKey: ["repair", from, to],
    queryFn: ({ signal }) => ask("POST /api/repairs/preview", { body }, signal),
    staleTime: 0,
    enabled: done === null,
  });
  const apply = async () => {
    try {
      const { sheets, others } = await ask("POST /api/repairs", { body });
      setDone(sheets.length + others);
      for (const queryKey of [["sheets"], ["sheet"], ["empty plates"], ["sheet versions"]])
        await client.invalidateQueries({ queryKey });
    } catch (failed) {
      setProblem(failed);
    }
  };
  return (
    <Dialog title="Repair" open onClose={onClose} wide>
      <h2 className="text-base font-bold">
        <span className="num">{from}</span> became <span className="num">{to}</span>
      </h2>
      {error && <ProblemNote error={error} />}
      {problem !== null && <ProblemNote error={problem} />}
      {done !== null ? (
        <p className="mt-2">
          ✓ {done} {done === 1 ? "sheet has" : "sheets have"} a version more, with the new name. Each can go back to the
          one before.
        </p>
      ) : (
        data && (
          <>
            {data.sheets.map(({ id, name, changes }) => (
              <section key={id} className="mt-3">
                <h3 className="font-bold">{name}</h3>
                <ul className="mt-0.5 text-[13px]">
                  {changes.map(({ where, before, after }) => (
                    <li key={where + before} className="mt-1">
                      {where}
                      <span className="num block break-words text-muted">− {before}</span>
                      <span className="num block break-words">+ {after}</span>
                    </li>
                  ))}
                </ul>
              </section>
            ))}
            {data.others > 0 && (
              <p className="mt-2 text-muted">
                and {data.others} {data.others === 1 ? "sheet" : "sheets"} that you may not see
              </p>
            )}
            {data.sheets.length + data.others === 0 && (
              <p className="mt-2 text-muted">No saved sheet has the old name.</p>
            )}
            <OnlyWith right="edit" what="To put it right">
              <button
                type="button"
                className="btn btn-sm btn-primary mt-4"
                disabled={data.sheets.length + data.others === 0}
                onClick={() => void apply()}
              >
                Put it right on {data.sheets.length + data.others === 1 ? "this sheet" : "all of them"}
              </button>
            </OnlyWith>
          </>
        )
      )}
    </Dialog>
  );
}
