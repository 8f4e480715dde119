"use client";

import { useMemo, useState } from "react";
import type { CompareAnswer } from "@/core/api/copies";
import type { ExporterConfig } from "@/core/pipeline/exporters";
import { formatValue } from "@/core/unit/format";
import { Lines } from "../chart/lines";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { ask } from "../query/api";
import { useSpanQuery } from "../query/awaited";
import { useSpan, useZone } from "../query/place";
import { useTimes } from "../query/times";
import { Slot } from "../sentence/slot";
import { apartText, together } from "./readingsPanel";

/** One reading from the store and from another backend's copy, side by side. */

const NAMES = ["in the store", "in the copy"] as const;
const SHOWN = 8;

export function ComparePanel({ exporters }: { exporters: readonly ExporterConfig[] }) {
  const times = useTimes();
  const copied = exporters.filter((one) => one.type === "otlp" && one.copy !== "");
  const [chosen, setChosen] = useState("");
  const [text, setText] = useState("");
  const [asked, setAsked] = useState("");
  const span = useSpan();
  const zone = useZone();
  const exporter = copied.find(({ id }) => id === chosen) ?? copied[0];
  const { data, error, isFetching } = useSpanQuery<CompareAnswer>([exporter?.id, asked], span, (over) => ({
    queryKey: ["compare", exporter?.id, asked, over, zone],
    queryFn: ({ signal }) =>
      ask("GET /api/pipeline/compare", { query: { exporter: exporter!.id, text: asked, ...over!, zone } }, signal),
    enabled: exporter !== undefined && asked !== "" && over !== null,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (before, query) =>
      query?.queryKey[1] === exporter?.id && query?.queryKey[2] === asked ? before : undefined,
  }));
  // The pair that is furthest apart comes first.
  const furthest = useMemo(() => {
    const [pair] = data?.pairs ?? [];
    if (!data || !pair) return null;
    const one = (side: typeof pair.left) => (side ? [side] : []);
    return together({ ...data.store, series: one(pair.left) }, { ...data.copy, series: one(pair.right) }, NAMES);
  }, [data]);
  if (!exporter) return null;
  return (
    <section aria-label="Compare two destinations" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">Compare two destinations</h2>
      <form
        className="flex flex-wrap items-baseline gap-x-2"
        onSubmit={(event) => {
          event.preventDefault();
          setAsked(text.trim());
        }}
      >
        <label className="flex min-w-0 flex-1 items-baseline gap-2">
          the reading
          <input
            className="input input-sm num min-w-0 flex-1"
            aria-label="reading to compare"
            placeholder="rate of loan.reserved by depot"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        from the store and from{" "}
        <Slot name="copy to compare with" options={copied.map(({ id }) => ({ value: id }))} onChoose={setChosen}>
          {exporter.id}
        </Slot>
        <button type="submit" className="btn btn-sm" disabled={text.trim() === ""}>
          Compare
        </button>
      </form>
      {isFetching && <div role="status" aria-label="Reading both…" className="skeleton-bar mt-2 h-24" />}
      {error && !isFetching && <ProblemNote error={error} />}
      {data && !isFetching && (
        <>
          <p className="mt-1">{apartText(data.pairs, data.store.unit, NAMES, times)}</p>
          {furthest && (
            <>
              <Lines result={furthest} height={170} />
              <Table
                label="Both, series by series"
                heads={[
                  "series",
                  { name: NAMES[0], right: true },
                  { name: NAMES[1], right: true },
                  { name: "furthest apart", right: true },
                ]}
              >
                {data.pairs.slice(0, SHOWN).map(({ labels, left, right, furthest }) => (
                  <Row key={JSON.stringify(labels)}>
                    <th scope="row" className="num py-1 pr-4 text-left font-normal">
                      {Object.values(labels).join(", ") || "all"}
                    </th>
                    <td className="num pr-4 text-right">{formatValue(left?.total ?? null, data.store.unit)}</td>
                    <td className="num pr-4 text-right">{formatValue(right?.total ?? null, data.store.unit)}</td>
                    <td className="num text-right">
                      {furthest
                        ? `${formatValue(furthest.left, data.store.unit)} and ${formatValue(furthest.right, data.store.unit)}`
                        : left && right
                          ? "nowhere"
                          : "only on one side"}
                    </td>
                  </Row>
                ))}
              </Table>
            </>
          )}
        </>
      )}
    </section>
  );
}
