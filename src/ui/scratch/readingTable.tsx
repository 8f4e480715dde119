import { shortAttribute } from "@/core/reading/language/tree";
import { type ReadingResult, seriesKey, settledSteps } from "@/core/reading/result";
import { bandWords } from "@/core/sheet/shown/names";
import { digits, formatValue, formOf } from "@/core/unit/format";

const MAX_ROWS = 500;

function last(values: readonly (number | null)[]): number | null {
  for (let i = values.length - 1; i >= 0; i--) if (values[i] !== null) return values[i];
  return null;
}

/** The numbers of a reading, a row per series: over the whole window, the latest step, the least and the greatest. */
export function ReadingTable({ result }: { result: ReadingResult }) {
  const labels = [...new Set(result.series.flatMap((series) => Object.keys(series.labels)))];
  const rows = [...result.series]
    .sort((a, b) => (b.total ?? Number.NEGATIVE_INFINITY) - (a.total ?? Number.NEGATIVE_INFINITY))
    .slice(0, MAX_ROWS);
  const spread = rows.some(({ band }) => band !== undefined);
  const writeBound = (value: number) => formatValue(value, result.bandUnit ?? "");
  const bounded = rows.some(({ totalLow }) => totalLow != null);
  const write = (value: number | null | undefined) => {
    if (value == null) return "—";
    const { factor, suffix } = formOf(result.unit, value, result.share);
    return `${digits(value * factor)} ${suffix}`.trim();
  };
  return (
    <div className="max-h-72 overflow-auto">
      <table className="w-full border-collapse text-[13px]">
        <caption className="sr-only">Numbers of the reading by series</caption>
        <thead className="sticky top-0 bg-base-100 text-left">
          <tr className="border-b border-base-300">
            {labels.map((label) => (
              <th key={label} scope="col" className="py-1 pr-4">
                {shortAttribute(label)}
              </th>
            ))}
            {spread && (
              <th scope="col" className="py-1 pr-4">
                lie from, to
              </th>
            )}
            <th scope="col" className="py-1 pr-4 text-right">
              whole window
            </th>
            {bounded && (
              <th scope="col" className="py-1 pr-4 text-right">
                lies between
              </th>
            )}
            <th scope="col" className="py-1 pr-4 text-right">
              latest step
            </th>
            <th scope="col" className="py-1 pr-4 text-right">
              least step
            </th>
            <th scope="col" className="py-1 text-right">
              greatest step
            </th>
          </tr>
        </thead>
        <tbody className="num">
          {rows.map((series) => {
            // What instances have yet to report is neither the latest nor the least.
            const settled = series.values.slice(0, settledSteps(result.times, series));
            const values = settled.filter((value) => value !== null);
            return (
              <tr key={seriesKey(series)} className="border-b border-base-300/50 last:border-b-0 hover:bg-base-200/60">
                {labels.map((label) => (
                  <td key={label} className="py-0.5 pr-4">
                    {series.labels[label] ?? <span className="font-sans text-muted">none</span>}
                  </td>
                ))}
                {spread && <td className="py-0.5 pr-4">{series.band && bandWords(series.band, writeBound)}</td>}
                <td className="py-0.5 pr-4 text-right font-semibold">{write(series.total)}</td>
                {bounded && (
                  <td className="py-0.5 pr-4 text-right text-muted">
                    {write(series.totalLow)} –{" "}
                    {series.totalLow != null && series.totalHigh == null ? "or more" : write(series.totalHigh)}
                  </td>
                )}
                <td className="py-0.5 pr-4 text-right">{write(last(settled))}</td>
                <td className="py-0.5 pr-4 text-right">{write(values.length > 0 ? Math.min(...values) : null)}</td>
                <td className="py-0.5 text-right">{write(values.length > 0 ? Math.max(...values) : null)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {result.series.length > MAX_ROWS && (
        <p className="py-1 text-muted">and {result.series.length - MAX_ROWS} more series</p>
      )}
    </div>
  );
}
