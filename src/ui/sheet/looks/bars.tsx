import { seriesKey } from "@/core/reading/result";
import type { LookAs } from "@/core/sheet/looks";
import { addsUp } from "@/core/sheet/shown/adds";
import { nameOf } from "@/core/sheet/shown/names";
import { chosenSeries } from "@/core/sheet/shown/series";
import { writerFor } from "@/core/sheet/shown/writer";
import { isDimmed, usePointedLabels } from "../../chart/pointing/hover";
import { crossed, placedIn } from "../../chart/thresholds";
import { OverTime } from "./overTime";
import type { LookProps } from "./props";
import { Value } from "./value";

/** Bars that there is room for. */
const MOST = 40;

/** Bars over time, or one a series for the whole window. */
export function Bars(props: LookProps<LookAs<"bars">>) {
  return props.look.over === "time" ? <OverTime {...props} /> : <ByValue {...props} />;
}

function ByValue({ look, readings, height }: LookProps<LookAs<"bars">>) {
  const pointed = usePointedLabels();
  const { result, names, unit, decimals, asked } = readings[0];
  const all = readings.flatMap((reading) => {
    const { order, top, rest } = look;
    const wanted = {
      order: order === "as read" ? ("largest first" as const) : order,
      top,
      rest: rest && addsUp(reading.asked),
      names: reading.names,
    };
    const { shown, rest: others } = chosenSeries(reading.result, wanted, MOST);
    const bars = shown.map((series) => ({ series, name: nameOf(series, reading.names, reading.text) }));
    return others ? [...bars, { series: others, name: "the rest" }] : bars;
  });
  const largest = all.reduce((most, { series }) => Math.max(most, Math.abs(series.total ?? 0)), 0);
  const writer = writerFor(result, { unit, decimals }, largest);
  const thresholds = placedIn(look.thresholds, result.unit);
  return (
    <div className="overflow-y-auto" style={{ maxHeight: height }}>
      <table className="w-full text-[13px]">
        <caption className="sr-only">{asked}, over the whole window</caption>
        <tbody>
          {all.map(({ series, name }) => {
            const over = crossed(series.total, thresholds);
            return (
              <tr key={seriesKey(series) + name} className={isDimmed(series.labels, pointed) ? "opacity-40" : ""}>
                <th scope="row" className="max-w-48 truncate py-0.5 pr-3 text-left font-normal">
                  <Value labels={series.labels} text={asked}>
                    {name}
                  </Value>
                </th>
                <td className="w-full">
                  <div
                    className={`h-3 rounded-xs ${over ? "bg-error" : "bg-primary"}`}
                    style={{ width: `${largest === 0 ? 0 : (Math.abs(series.total ?? 0) / largest) * 100}%` }}
                  />
                </td>
                <td className="num py-0.5 pl-3 text-right whitespace-nowrap">
                  {writer.text(series.total)}
                  {over && <span className="text-error"> ✕ {over.word}</span>}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {names === "" && all.length === 0 && <p className="text-muted">Nothing came in this window</p>}
    </div>
  );
}
