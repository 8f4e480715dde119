"use client";

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { SetAsideEntry } from "@/core/api/store";
import { count, size } from "../frame/amounts";
import { Dialog } from "../frame/dialog";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { ask } from "../query/api";
import { useTimes } from "../query/times";

const KINDS: Record<SetAsideEntry["kind"], string> = {
  strip: "points of",
  window: "points that waited at",
  trace: "spans that waited at",
  export: "what was to go to",
};

/** What background jobs could not handle and put by; nothing where there is none. */
export function SetAside({ all }: { all: readonly SetAsideEntry[] }) {
  const { moment } = useTimes();
  const [asking, setAsking] = useState(false);
  const client = useQueryClient();
  const deleting = useMutation({
    mutationFn: () => ask("DELETE /api/store/aside", {}),
    onSuccess: async () => {
      setAsking(false);
      await client.invalidateQueries({ queryKey: ["store"] });
    },
  });
  if (all.length === 0) return null;
  const pieces = all.reduce((sum, one) => sum + one.pieces, 0);
  return (
    <section className="plate border-l-4 border-l-warning px-3 py-2" aria-label="Set aside">
      <h2 className="font-bold text-warning">◆ Set aside</h2>
      <p className="text-muted">
        Upkeep could not handle this, put it by and went on with everything else. Readings are without it.
      </p>
      <Table
        label="Set aside"
        heads={["what", "why", { name: "points", right: true }, { name: "size", right: true }, "last"]}
      >
        {all.map((one) => (
          <Row key={`${one.kind} ${one.subject} ${one.reason}`}>
            <th scope="row" className="py-1 pr-4 text-left font-normal">
              {KINDS[one.kind]} <span className="num font-semibold">{one.subject}</span>
            </th>
            <td className="pr-4">{one.reason}</td>
            <td className="num pr-4 text-right">{count(one.points)}</td>
            <td className="num pr-4 text-right">{size(one.bytes)}</td>
            <td className="num whitespace-nowrap">{moment(one.at)}</td>
          </Row>
        ))}
      </Table>
      <OnlyWith right="own" what="To delete it for good">
        <button type="button" className="btn btn-sm mt-2" onClick={() => setAsking(true)}>
          Delete for good…
        </button>
      </OnlyWith>
      <Dialog title="Delete what is set aside" open={asking} onClose={() => setAsking(false)}>
        <p>
          <span className="num">{count(pieces)}</span> {pieces === 1 ? "piece" : "pieces"} will be gone for good. They
          cannot be read as they are.
        </p>
        {deleting.error && <ProblemNote error={deleting.error} />}
        <div className="mt-3 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={() => setAsking(false)}>
            Keep
          </button>
          <button
            type="button"
            className="btn btn-sm btn-error"
            disabled={deleting.isPending}
            onClick={() => deleting.mutate()}
          >
            Delete
          </button>
        </div>
      </Dialog>
    </section>
  );
}
