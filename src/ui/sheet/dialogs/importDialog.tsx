"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { nearest } from "@/core/reading/language/nearest";
import { parseSheetFile, problemsOf, type SheetFile, SheetFileError, unknownMetrics } from "@/core/sheet/file";
import { repaired } from "@/core/sheet/repair";
import { Dialog } from "../../frame/dialog";
import { ProblemNote } from "../../frame/problemNote";
import { ask } from "../../query/api";
import { useSheets } from "../../query/sheets";
import { useMetrics } from "../../query/use";
import { Slot } from "../../sentence/slot";

const MAX_BYTES = 20 * 1024 * 1024;
const LEAVE = "\u0000leave";

/** Sheets of a file: what they read is held against what arrives, and what is missing is mapped. */
export function ImportDialog({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const metrics = useMetrics().data;
  const there = useSheets().data;
  const [sheets, setSheets] = useState<SheetFile["sheets"]>([]);
  const [wrong, setWrong] = useState<string | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const [mapped, setMapped] = useState<Readonly<Record<string, string>>>({});
  const [done, setDone] = useState<string[] | null>(null);
  const names = useMemo(() => [...new Set((metrics ?? []).map(({ name }) => name))], [metrics]);
  const unknown = useMemo(
    () =>
      unknownMetrics(
        sheets.map(({ sheet }) => sheet),
        new Set(names),
      ),
    [sheets, names],
  );
  const take = async (file: File | undefined) => {
    setWrong(null);
    setSheets([]);
    if (!file) return;
    try {
      if (file.size > MAX_BYTES) throw new SheetFileError("it has more than 20 MB");
      setSheets(parseSheetFile(await file.text()));
    } catch (error) {
      if (!(error instanceof SheetFileError)) throw error;
      setWrong(error.message);
    }
  };
  const bring = async () => {
    const brought: string[] = [];
    try {
      for (const { id, sheet } of sheets) {
        const own = unknown.reduce(
          (now, from) => (mapped[from] ? repaired(now, { what: "metric", of: "", from, to: mapped[from] }).sheet : now),
          sheet,
        );
        const taken = there?.some((one) => one.id === id);
        const body = { sheet: own, note: "from a file", ...(taken ? {} : { id }) };
        brought.push((await ask("POST /api/sheets", { body })).id);
      }
    } catch (error) {
      setProblem(error);
    }
    setDone(brought);
    await client.invalidateQueries({ queryKey: ["sheets"] });
  };
  return (
    <Dialog title="Import sheets" open onClose={onClose} wide>
      <h2 className="text-base font-bold">Import sheets</h2>
      <label className="mt-2 block">
        <span className="block text-[12.5px] text-muted">a file of sheets (JSON)</span>
        <input
          type="file"
          accept=".json,application/json"
          className="file-input file-input-sm w-full"
          onChange={(event) => void take(event.target.files?.[0])}
        />
      </label>
      {wrong && (
        <p role="alert" className="mt-2 text-error">
          ✕ {wrong}
        </p>
      )}
      {problem !== null && <ProblemNote error={problem} />}
      {done ? (
        <p className="mt-3">
          ✓ {done.length} {done.length === 1 ? "sheet is" : "sheets are"} here now, as {done.join(", ")}.
        </p>
      ) : (
        sheets.length > 0 && (
          <>
            <ul className="mt-3">
              {sheets.map(({ id, sheet }) => (
                <li key={id}>
                  <b>{sheet.name}</b>{" "}
                  <span className="text-muted">
                    {there?.some((one) => one.id === id) && `${id} is there already: this one gets another id`}
                  </span>
                  {problemsOf(sheet).map((one) => (
                    <p key={one} className="text-[13px] text-warning">
                      ◆ {one}
                    </p>
                  ))}
                </li>
              ))}
            </ul>
            {unknown.length > 0 && (
              <section className="mt-3" aria-label="What does not arrive here">
                <h3 className="font-bold">These do not arrive here</h3>
                <ul className="text-[13.5px]">
                  {unknown.map((from) => {
                    const near = nearest(from, names);
                    return (
                      <li key={from} className="py-0.5">
                        <span className="num">{from}</span>:{" "}
                        <Slot
                          name={`what stands for ${from}`}
                          options={[
                            { value: LEAVE, label: "leave it as it is" },
                            ...(near ? [{ value: near, note: "its name is like it" }] : []),
                            ...names.filter((name) => name !== near).map((value) => ({ value })),
                          ]}
                          onChoose={(to) => setMapped({ ...mapped, [from]: to === LEAVE ? "" : to })}
                        >
                          {mapped[from] ? `read ${mapped[from]} instead` : "left as it is"}
                        </Slot>
                      </li>
                    );
                  })}
                </ul>
              </section>
            )}
            <button
              type="button"
              className="btn btn-sm btn-primary mt-4"
              disabled={!metrics}
              onClick={() => void bring()}
            >
              Bring {sheets.length === 1 ? "it" : "them"} in
            </button>
          </>
        )
      )}
    </Dialog>
  );
}
