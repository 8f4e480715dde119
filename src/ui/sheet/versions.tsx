"use client";

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { changesBetween, type PartChange, partWords } from "@/core/sheet/merge";
import type { Sheet } from "@/core/sheet/sheet";
import { Dialog } from "../frame/dialog";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useTimes } from "../query/times";

const DID: Readonly<Record<PartChange["did"], string>> = {
  added: "added",
  removed: "taken out",
  changed: "changed",
  moved: "moved",
};

/** What differs between two states of a sheet, part by part. */
export function Differences({ before, after }: { before: Sheet; after: Sheet }) {
  const changes = changesBetween(before, after);
  if (changes.length === 0) return <p className="text-[13px] text-muted">They say the same.</p>;
  return (
    <ul className="text-[13px]">
      {changes.map((change) => (
        <li key={change.key + change.did}>
          <span className="text-muted">{DID[change.did]}</span> {partWords((change.after ?? change.before)!)}
        </li>
      ))}
    </ul>
  );
}

/** The versions of a sheet: who saved them and why, what each changed, and the way back to one. */
export function VersionsDialog({
  id,
  current,
  onRestore,
  onClose,
}: {
  id: string;
  current: { version: number; sheet: Sheet };
  /** Takes an earlier version into the draft; missing where the reader may not change the sheet. */
  onRestore?: ((sheet: Sheet, version: number) => void) | undefined;
  onClose: () => void;
}) {
  const { moment } = useTimes();
  const [looked, setLooked] = useState<number | null>(null);
  const { data, error } = useQuery({
    queryKey: ["sheet versions", id],
    queryFn: ({ signal }) => ask("GET /api/sheets/{id}/versions", { params: { id } }, signal),
  });
  const older = useQuery({
    queryKey: ["sheet", id, looked],
    queryFn: ({ signal }) => ask("GET /api/sheets/{id}", { params: { id }, query: { version: looked! } }, signal),
    enabled: looked !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <Dialog title="Versions" open onClose={onClose} wide>
      <h2 className="text-base font-bold">Versions</h2>
      {error && <ProblemNote error={error} />}
      <ol className="mt-2">
        {data?.versions.map(({ version, at, who, note }) => (
          <li key={version} className="border-b border-base-300/60 py-1.5 last:border-b-0">
            <p>
              <span className="num font-semibold">{version}</span> {note}{" "}
              <span className="text-[12.5px] text-muted">
                {who}, {moment(at)}
              </span>{" "}
              {version !== current.version && (
                <button
                  type="button"
                  className="slot"
                  aria-expanded={looked === version}
                  onClick={() => setLooked(looked === version ? null : version)}
                >
                  what changed since
                </button>
              )}
            </p>
            {looked === version && older.data && (
              <div className="mt-1 border-l-2 border-base-300 pl-3">
                <Differences before={older.data.sheet} after={current.sheet} />
                {onRestore && (
                  <button
                    type="button"
                    className="btn btn-xs mt-1"
                    onClick={() => onRestore(older.data.sheet, version)}
                  >
                    Go back to version {version}
                  </button>
                )}
              </div>
            )}
          </li>
        ))}
      </ol>
    </Dialog>
  );
}
