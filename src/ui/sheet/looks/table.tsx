import { lazy, Suspense, useMemo, useRef, useState } from "react";
import { shortAttribute } from "@/core/reading/language/tree";
import type { LookAs } from "@/core/sheet/looks";
import { joined, rowLink, sortedRows, type TableRow } from "@/core/sheet/shown/rows";
import { type Writer, writerFor } from "@/core/sheet/shown/writer";
import { isDimmed, usePointedLabels } from "../../chart/pointing/hover";
import Link from "../../frame/link";
import type { LookProps, ShownReading } from "./props";
import { Value } from "./value";

const ManyRows = lazy(async () => ({ default: (await import("./manyRows")).ManyRows }));

const ROW = 25;
/** So many rows are drawn as they are: they need no keeping of those that are out of sight. */
const FEW = 60;

/** A column's head: what its reading is called, else its text up to the first clause. */
function headOf({ text, result }: ShownReading): string {
  const titled = /\bas "([^"]*)"\s*$/.exec(text);
  return titled ? titled[1] : result.reading.split(/\s(?:where|by|over|every|that|top|bottom)\s/)[0];
}

type Column = { by: number | string; head: string };

function Cells({
  row,
  labels,
  readings,
  writers,
  largest,
  bars,
  link,
}: {
  row: TableRow;
  labels: readonly string[];
  readings: readonly ShownReading[];
  writers: readonly Writer[];
  largest: readonly number[];
  bars: boolean;
  link: string;
}) {
  return (
    <>
      {labels.map((label, i) => {
        const value = row.labels[label] ?? null;
        const said = value ?? <span className="text-muted">none</span>;
        return (
          <td key={label} className="truncate pr-4">
            {link !== "" && i === 0 ? (
              <Link href={rowLink(link, row.labels)} className="slot">
                {said}
              </Link>
            ) : (
              <Value labels={{ [label]: value }} text={readings[0].asked}>
                {said}
              </Value>
            )}
          </td>
        );
      })}
      {readings.map(({ asked }, place) => {
        const value = row.values[place];
        const part = value === null || largest[place] === 0 ? 0 : Math.abs(value) / largest[place];
        return (
          <td key={asked + String(place)} className="num relative pl-3 text-right whitespace-nowrap">
            {bars && (
              <span
                aria-hidden="true"
                className="absolute inset-y-1 right-0 rounded-xs bg-primary/15"
                style={{ width: `calc(${part} * (100% - 0.75rem))` }}
              />
            )}
            <span className="relative pr-1">{writers[place].text(value)}</span>
          </td>
        );
      })}
    </>
  );
}

/** Readings side by side, a row for each combination of labels. */
export function TableLook({ look, readings, height }: LookProps<LookAs<"table">>) {
  const pointed = usePointedLabels();
  const holder = useRef<HTMLDivElement>(null);
  const table = useMemo(
    () =>
      joined(
        readings.map(({ result }) => result),
        readings.map(({ asked }) => asked),
      ),
    [readings],
  );
  const preset: Column["by"] = look.sort === "" ? 0 : /^\d$/.test(look.sort) ? Number(look.sort) : look.sort;
  const [sort, setSort] = useState<{ by: Column["by"]; falling: boolean } | null>(null);
  const { by, falling } = sort ?? { by: preset, falling: look.falling };
  const rows = useMemo(() => {
    const all = sortedRows(table.rows, by, falling);
    return look.top === null ? all : all.slice(0, look.top);
  }, [table, by, falling, look.top]);
  const largest = readings.map((_, place) =>
    rows.reduce((most, row) => Math.max(most, Math.abs(row.values[place] ?? 0)), 0),
  );
  const writers = readings.map(({ result, unit, decimals }, place) =>
    writerFor(result, { unit, decimals }, largest[place]),
  );
  const columns: Column[] = [
    ...table.labels.map((label) => ({ by: label, head: shortAttribute(label) })),
    ...readings.map((reading, place) => ({ by: place, head: headOf(reading) })),
  ];
  const rowAt = (index: number) => {
    const row = rows[index];
    return (
      <tr
        key={JSON.stringify(row.labels)}
        aria-rowindex={index + 2}
        style={{ height: ROW }}
        className={`border-b border-base-300/40 last:border-b-0 hover:bg-base-200/60 ${isDimmed(row.labels, pointed) ? "opacity-40" : ""}`}
      >
        <Cells
          row={row}
          labels={table.labels}
          readings={readings}
          writers={writers}
          largest={largest}
          bars={look.bars}
          link={look.link}
        />
      </tr>
    );
  };
  const first = rows.slice(0, FEW).map((_, index) => rowAt(index));
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keys
    <section ref={holder} tabIndex={0} aria-label="Rows" className="overflow-auto" style={{ maxHeight: height }}>
      <table className="w-full text-[13px]" aria-rowcount={rows.length + 1}>
        <caption className="sr-only">{readings.map(({ asked }) => asked).join("; ")}, over the whole window</caption>
        <thead className="sticky top-0 z-10 bg-base-100">
          <tr className="border-b border-base-300">
            {columns.map(({ by: own, head }) => (
              <th
                key={String(own)}
                scope="col"
                aria-sort={own === by ? (falling ? "descending" : "ascending") : "none"}
                className={`py-1 align-bottom ${typeof own === "number" ? "pl-3 text-right" : "pr-4 text-left"}`}
              >
                <button
                  type="button"
                  className={`slot ${typeof own === "number" ? "text-right" : "text-left"}`}
                  onClick={() => setSort({ by: own, falling: own === by ? !falling : typeof own === "number" })}
                >
                  {head}
                  {own === by && (falling ? " ↓" : " ↑")}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.length <= FEW ? (
            first
          ) : (
            <Suspense fallback={first}>
              <ManyRows holder={holder} count={rows.length} height={ROW} row={rowAt} />
            </Suspense>
          )}
        </tbody>
        {look.sums && table.sums.some((sum) => sum !== null) && (
          <tfoot className="sticky bottom-0 bg-base-100 font-semibold">
            <tr className="border-t border-base-300">
              {table.labels.map((label, i) => (
                <th key={label} scope={i === 0 ? "row" : undefined} className="py-1 text-left">
                  {i === 0 ? "all together" : ""}
                </th>
              ))}
              {table.sums.map((sum, place) => (
                <td key={readings[place].asked + String(place)} className="num py-1 pr-1 pl-3 text-right">
                  {sum === null ? "" : writers[place].text(sum)}
                </td>
              ))}
            </tr>
          </tfoot>
        )}
      </table>
    </section>
  );
}
