"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Repair } from "@/core/sheet/repair";
import { Dialog } from "../../frame/dialog";
import { OnlyWith } from "../../frame/onlyWith";
import { ProblemNote } from "../../frame/problemNote";
import { ask } from "../../query/api";

const plural = (count: number, one: string) => (count === 1 ? `1 ${one}` : `${count} ${one}s`);

/** What putting a name right changes on all sheets and in contracts, and doing it in one step. */
export function RepairDialog({ repair, onClose }: { repair: Repair; onClose: () => void }) {
  const { what, of, from, to } = repair;
  const client = useQueryClient();
  const [done, setDone] = useState<{ sheets: number; contracts: number } | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const { data, error } = useQuery({
    queryKey: ["repair", repair],
    queryFn: ({ signal }) => ask("POST /api/repairs/preview", { body: repair }, signal),
    staleTime: 0,
    enabled: done === null,
  });
  const apply = async () => {
    try {
      const { sheets, others, contracts } = await ask("POST /api/repairs", { body: repair });
      setDone({ sheets: sheets.length + others, contracts: contracts.filter(({ stays }) => stays === "").length });
      for (const queryKey of [["sheets"], ["sheet"], ["empty plates"], ["sheet versions"], ["contracts"]])
        await client.invalidateQueries({ queryKey });
    } catch (failed) {
      setProblem(failed);
    }
  };
  const count = data ? data.sheets.length + data.others + data.contracts.filter(({ stays }) => stays === "").length : 0;
  return (
    <Dialog title="Repair" open onClose={onClose} wide>
      <h2 className="text-base font-bold">
        {what === "attribute" && "the attribute "}
        <span className="num">{from}</span> {of && `of ${of} `}became <span className="num">{to}</span>
      </h2>
      {error && <ProblemNote error={error} />}
      {problem !== null && <ProblemNote error={problem} />}
      {done !== null ? (
        <p className="mt-2">
          ✓ {plural(done.sheets, "sheet")} {done.contracts > 0 && `and ${plural(done.contracts, "contract")} `}
          {done.sheets + done.contracts === 1 ? "has" : "have"} a version more, with the new name. Each can go back to
          the one before.
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
            {data.contracts.length > 0 && (
              <section className="mt-3">
                <h3 className="font-bold">Contracts</h3>
                <ul className="mt-0.5 text-[13px]">
                  {data.contracts.map(({ name, becomes, stays }) => (
                    <li key={name}>
                      <span className="num">{name}</span>{" "}
                      {stays !== ""
                        ? `stays as it is: ${stays}`
                        : becomes === name
                          ? "asks for the new name"
                          : `goes on as ${becomes}`}
                    </li>
                  ))}
                </ul>
              </section>
            )}
            {count === 0 && <p className="mt-2 text-muted">No saved sheet and no contract has the old name.</p>}
            <OnlyWith right="edit" what="To put it right">
              <button
                type="button"
                className="btn btn-sm btn-primary mt-4"
                disabled={count === 0}
                onClick={() => void apply()}
              >
                Put it right {count === 1 ? "there" : "on all of them"}
              </button>
            </OnlyWith>
          </>
        )
      )}
    </Dialog>
  );
}
