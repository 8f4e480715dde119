import { useTimes } from "../query/times";
import type { Chart } from "./drawn";
import { valueText } from "./pointing/readout";

/** The values of a reading as a table, newest first: for those who do not see lines, or want the figures. */
export function ValueTable({ chart: { times, drawn }, height }: { chart: Chart; height: number }) {
  const { moment } = useTimes();
  const order = times.map((_, i) => i).reverse();
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keys
    <section aria-label="Values" tabIndex={0} className="overflow-auto" style={{ height }}>
      <table className="w-full border-collapse text-[12px]">
        <thead className="sticky top-0 bg-base-100">
          <tr className="border-b border-base-300 text-left">
            <th scope="col" className="py-1 pr-4">
              until
            </th>
            {drawn.map(({ key, name }) => (
              <th key={key} scope="col" className="py-1 pr-4 text-right">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {order.map((i) => (
            <tr key={times[i]}>
              <th scope="row" className="num pr-4 text-left font-normal whitespace-nowrap text-muted">
                {moment(times[i])}
              </th>
              {drawn.map((one) => (
                <td key={one.key} className="num pr-4 text-right whitespace-nowrap">
                  {one.series.values[i] === null ? "—" : valueText(one, i)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
