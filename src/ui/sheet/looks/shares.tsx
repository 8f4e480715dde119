import type { LookAs } from "@/core/sheet/looks";
import { addsUp } from "@/core/sheet/shown/adds";
import { nameOf } from "@/core/sheet/shown/names";
import { chosenSeries } from "@/core/sheet/shown/series";
import { writerFor } from "@/core/sheet/shown/writer";
import { digits } from "@/core/unit/format";
import { newestFirst, PLAIN, strokesOf } from "../../chart/colours";
import { isDimmed, usePointedLabels } from "../../chart/pointing/hover";
import type { LookProps } from "./props";
import { Value } from "./value";

const MOST = 8;

/** What part of the whole each series has: one bar, and a line for each. */
export function Shares({ look, readings, marks }: LookProps<LookAs<"shares">>) {
  const pointed = usePointedLabels();
  const { result, asked, names, text, unit, decimals } = readings[0];
  if (!addsUp(asked))
    return (
      <p className="py-2 text-warning">
        ◆ Only amounts are parts of a whole: a rate, a count or a sum. Values of this reading do not add up.
      </p>
    );
  const { shown, rest } = chosenSeries(result, { order: "largest first", top: look.top, rest: true, names }, MOST);
  const all = rest ? [...shown, rest] : shown;
  const strokes = strokesOf(shown, newestFirst(marks));
  const whole = all.reduce((sum, { total }) => sum + Math.max(0, total ?? 0), 0);
  const part = (total: number | null) => (whole === 0 ? 0 : Math.max(0, total ?? 0) / whole);
  const largest = all.reduce((most, { total }) => Math.max(most, total ?? 0), 0);
  const writer = writerFor(result, { unit, decimals }, largest);
  const colour = (i: number) => (strokes[i] ?? PLAIN).colour;
  return (
    <div className="py-2">
      <div className="flex h-6 gap-px overflow-hidden rounded-xs" aria-hidden="true">
        {all.map((series, i) => (
          <div
            key={JSON.stringify(series.labels)}
            style={{
              width: `${part(series.total) * 100}%`,
              background: colour(i),
              opacity: isDimmed(series.labels, pointed) ? 0.3 : 1,
            }}
          />
        ))}
      </div>
      <table className="mt-2 w-full text-[13px]">
        <caption className="sr-only">{asked}: parts of the whole window</caption>
        <tbody>
          {all.map((series, i) => (
            <tr key={JSON.stringify(series.labels)}>
              <td className="w-4">
                <span className="inline-block h-2.5 w-2.5 rounded-xs" style={{ background: colour(i) }} />
              </td>
              <th scope="row" className="py-0.5 pr-3 text-left font-normal">
                {series === rest ? (
                  "the rest"
                ) : (
                  <Value labels={series.labels} text={asked}>
                    {nameOf(series, names, text)}
                  </Value>
                )}
              </th>
              <td className="num pr-3 text-right">{digits(part(series.total) * 100)} %</td>
              <td className="num text-right text-muted">{writer.text(series.total)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
