import type { LookAs } from "@/core/sheet/looks";
import { bandWords, nameOf } from "@/core/sheet/shown/names";
import { spreadGroups } from "@/core/sheet/shown/spread";
import { writerFor } from "@/core/sheet/shown/writer";
import { digits } from "@/core/unit/format";
import { crossed, placedIn } from "../../chart/thresholds";
import { NoSpread } from "./heat";
import type { LookProps } from "./props";
import { Value } from "./value";

const MOST = 4;

/** How the values of the whole window lie: a bar for each band, as a part of its group. */
export function DistributionLook({ look, readings, height }: LookProps<LookAs<"distribution">>) {
  const [reading] = readings;
  const { result, asked } = reading;
  const groups = spreadGroups(result).slice(0, MOST);
  if (groups.length === 0) return <NoSpread />;
  const totals = groups.map(({ bands }) => bands.reduce((sum, { total }) => sum + (total ?? 0), 0));
  // Bands that are empty everywhere at either end say nothing.
  const filled = groups[0].bands.map((_, b) => groups.some(({ bands }) => (bands[b]?.total ?? 0) > 0));
  const [first, last] = [filled.indexOf(true), filled.lastIndexOf(true)];
  const rows = groups[0].bands.slice(first, last + 1);
  const thresholds = placedIn(look.thresholds, result.bandUnit ?? "");
  const largest = groups.reduce(
    (most, { bands }, g) => bands.reduce((a, { total }) => Math.max(a, (total ?? 0) / (totals[g] || 1)), most),
    0,
  );
  const write = (value: number) => writerFor({ unit: result.bandUnit ?? "", share: false }, reading, value).text(value);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keys
    <section tabIndex={0} aria-label="Bands" className="overflow-y-auto" style={{ maxHeight: height }}>
      <table className="w-full text-[12.5px]">
        <caption className="sr-only">{asked}, over the whole window</caption>
        {groups.length > 1 && (
          <thead>
            <tr>
              <th scope="col" className="text-left">
                lie from, to
              </th>
              {groups.map(({ labels }) => (
                <th key={JSON.stringify(labels)} scope="col" className="text-left">
                  <Value labels={labels} text={asked}>
                    {nameOf({ labels }, reading.names)}
                  </Value>
                </th>
              ))}
            </tr>
          </thead>
        )}
        <tbody>
          {rows.map(({ band }, i) => {
            const wrong = crossed(band.low ?? band.high, thresholds);
            return (
              <tr key={String(band.low)}>
                <th scope="row" className="num w-40 pr-3 text-left font-normal whitespace-nowrap">
                  {bandWords(band, write)}
                </th>
                {groups.map(({ labels, bands }, g) => {
                  const count = bands[first + i]?.total ?? 0;
                  const part = count / (totals[g] || 1);
                  return (
                    <td key={JSON.stringify(labels)} className="relative pr-2">
                      <span
                        aria-hidden="true"
                        className={`absolute inset-y-0.5 left-0 rounded-xs ${wrong ? "bg-error/40" : "bg-primary/30"}`}
                        style={{ width: `${largest === 0 ? 0 : (part / largest) * 100}%` }}
                      />
                      <span className="num relative pl-1">
                        {digits(count)} <span className="text-muted">{digits(part * 100)} %</span>
                      </span>
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
