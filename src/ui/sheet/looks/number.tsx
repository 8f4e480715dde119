import { seriesKey, settledSteps } from "@/core/reading/result";
import type { LookAs } from "@/core/sheet/looks";
import { changeFigures, changeFrom, shareAsShown } from "@/core/sheet/shown/change";
import { nameOf } from "@/core/sheet/shown/names";
import { writerFor } from "@/core/sheet/shown/writer";
import { Spark } from "../../chart/spark";
import { crossed, placedIn } from "../../chart/thresholds";
import type { LookProps, ShownReading } from "./props";

const MOST = 4;

function Change({
  reading,
  value,
  before,
  look,
  words,
}: {
  reading: ShownReading;
  value: number | null;
  before: number | null;
  look: LookAs<"number">;
  words: string;
}) {
  const { result, unit } = reading;
  const { decimals } = reading;
  // What its figures do not show is no difference.
  const shown = (one: number | null) => {
    if (one === null || value === null) return null;
    if (result.share) return shareAsShown(one, value, decimals);
    return decimals === null ? one : Number(one.toFixed(decimals));
  };
  const change = changeFrom(shown(before), shown(value), result.share, look.good);
  if (!change) return <p className="text-[13px] text-muted">nothing to hold it against {words}</p>;
  const { mark, by, good } = change;
  const write = (size: number) => writerFor(result, { unit, decimals: null }, size).text(size);
  const way = mark === "▬" ? "the same as" : by > 0 ? "more than" : "less than";
  const colour = good === null ? "text-muted" : good ? "text-success" : "text-error";
  return (
    <p className={`text-[13px] ${colour}`}>
      {changeFigures(change, result.share, write, decimals)} {way} {words}
      {good !== null && <span>, {good ? "better" : "worse"}</span>}
    </p>
  );
}

/** What the window comes to in large figures, its change, and its course. */
export function OneNumber({ look, readings, earlierWords }: LookProps<LookAs<"number">>) {
  return (
    <div className="flex flex-wrap gap-x-8 gap-y-3 py-2">
      {readings.flatMap((reading) => {
        const { result, earlier, unit, decimals, names, text } = reading;
        const thresholds = placedIn(look.thresholds, result.unit);
        const several = readings.length > 1 || result.series.length > 1;
        return result.series.slice(0, MOST).map((series) => {
          const writer = writerFor(result, { unit, decimals }, Math.abs(series.total ?? 0));
          const over = crossed(series.total, thresholds);
          const key = seriesKey(series);
          const before = earlier?.series.find((one) => seriesKey(one) === key)?.total ?? null;
          // What not all have reported yet would look like a fall.
          const settled = series.values.slice(0, settledSteps(result.times, series));
          const top = series.values.reduce<number>((most, value) => Math.max(most, value ?? 0), 0);
          return (
            <div key={text + key} className="min-w-0 flex-1">
              {several && <p className="text-[12.5px] font-semibold">{nameOf(series, names, text)}</p>}
              <p className={`num text-[34px] leading-tight font-bold ${over ? "text-error" : ""}`}>
                {series.total === null ? "—" : writer.figure(series.total)}
                <span className="ml-1.5 text-[17px] font-semibold">{writer.suffix}</span>
              </p>
              {over && (
                <p className="text-[13px] text-error">
                  ✕ {over.word} {over.at}
                </p>
              )}
              {earlierWords !== "" && (
                <Change reading={reading} value={series.total} before={before} look={look} words={earlierWords} />
              )}
              {look.course && <Spark values={settled} top={top} colour="var(--color-primary)" wide />}
            </div>
          );
        });
      })}
    </div>
  );
}
