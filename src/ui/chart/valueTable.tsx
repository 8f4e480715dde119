import type { ReadingResult } from "@/core/reading/result";
import { moment } from "../frame/times";
import { seriesName } from "./labels";
import { valueText } from "./readout";

/** The values of a reading as a table, newest first: for those who do not see lines, or want the figures. */
export function ValueTable({ result, height }: { result: ReadingResult; height: number }) {
  const order = result.times.map((_, i) => i).reverse();
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keys
    <section aria-label="Values" tabIndex={0} className="overflow-auto" style={{ height }}>
      <table className="w-full border-collapse text-[12px]">
        <thead className="sticky top-0 bg-base-100">
          <tr className="border-b border-base-300 text-left">
            <th scope="col" className="py-1 pr-4">
              until
            </th>
            {result.series.map((series) => (
              <th key={seriesName(series)} scope="col" className="py-1 pr-4 text-right">
                {seriesName(series)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {order.map((i) => (
            <tr key={result.times[i]}>
              <th scope="row" className="num pr-4 text-left font-normal whitespace-nowrap text-muted">
                {moment(result.times[i])}
              </th>
              {result.series.map((series) => (
                <td key={seriesName(series)} className="num pr-4 text-right whitespace-nowrap">
                  {series.values[i] === null ? "—" : valueText(result, series, i)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
