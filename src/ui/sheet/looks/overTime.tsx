import { useCallback, useMemo } from "react";
import type { LookAs } from "@/core/sheet/looks";
import { addsUp } from "@/core/sheet/shown/adds";
import { type ChartReading, chartOf, optionsOf } from "../../chart/chartOf";
import type { ChartProps } from "../../chart/chartProps";
import { newestFirst } from "../../chart/colours";
import { TimeChart } from "../../chart/lines";
import { placedIn } from "../../chart/thresholds";
import { useScope } from "../scope";
import type { LookProps } from "./props";

/** Lines, areas and bars over time. */
export function OverTime({
  look,
  readings,
  marks,
  height,
  earlierWords,
}: LookProps<LookAs<"lines"> | LookAs<"stacked"> | LookAs<"bars">>) {
  const chart = useMemo(() => {
    const shown = readings.map(
      ({ asked, result, earlier, names, unit, decimals }): ChartReading => ({
        text: asked,
        result,
        earlier,
        names,
        unit,
        decimals,
        adds: addsUp(asked),
      }),
    );
    return chartOf(shown, { ...optionsOf(look), releases: newestFirst(marks), earlierWords });
  }, [look, readings, marks, earlierWords]);
  const { onValue } = useScope();
  const [{ asked }] = readings;
  // The same as long as it does the same: a chart is drawn anew for another.
  const choose = useCallback<NonNullable<ChartProps["onName"]>>(
    (labels, at) => Object.keys(labels).length > 0 && onValue?.(labels, at, asked),
    [onValue, asked],
  );
  const thresholds = useMemo(() => placedIn(look.thresholds, readings[0].result.unit), [look, readings]);
  return (
    <>
      <TimeChart chart={chart} marks={marks} height={height} thresholds={thresholds} onName={onValue && choose} />
      {chart.notes.map((note) => (
        <p key={note} className="text-[12.5px] text-warning">
          ◆ {note}
        </p>
      ))}
    </>
  );
}
