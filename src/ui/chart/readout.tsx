import { type ReadingResult, type ReadingSeries, settledSteps } from "@/core/reading/result";
import { digits, formOf } from "@/core/unit/format";
import { moment } from "../frame/times";
import { type Drawn, isWide } from "./drawn";

function valueWithBounds(
  result: ReadingResult,
  series: ReadingSeries,
  i: number,
  share: boolean,
): { text: string; bounds: string } {
  const value = series.values[i];
  if (value === null) return { text: "no data", bounds: "" };
  const form = formOf(result.unit, value, share);
  const text = `${digits(value * form.factor)} ${form.suffix}`.trim();
  if (!isWide(series, i)) return { text, bounds: "" };
  const low = series.low?.[i];
  const high = series.high?.[i];
  const end = high == null ? "or more" : `to ${digits(high * form.factor)}`;
  return { text, bounds: low == null ? "" : `(${digits(low * form.factor)} ${end})` };
}

/** The values at the crosshair, beside it. */
export function Readout({
  result,
  drawn,
  index,
  left,
  labelWidth,
}: {
  result: ReadingResult;
  drawn: readonly Drawn[];
  index: number;
  left: boolean;
  labelWidth: number;
}) {
  return (
    <div
      className={`plate pointer-events-none absolute top-1 z-10 px-2 py-1 text-[12px] shadow-md ${left ? "left-14" : ""}`}
      style={left ? {} : { right: labelWidth + 6 }}
    >
      <p className="num text-muted">{moment(result.times[index])}</p>
      {drawn.some(({ series }) => index >= settledSteps(result.times, series)) && (
        <p className="text-muted">not all have reported yet</p>
      )}
      <table>
        <tbody>
          {drawn.map(({ key, name, series, stroke }) => {
            const { text, bounds } = valueWithBounds(result, series, index, result.share);
            return (
              <tr key={key}>
                <td className="max-w-64 truncate pr-3 font-semibold" style={{ color: stroke.colour }}>
                  {name}
                </td>
                <td className="num text-right whitespace-nowrap">{text}</td>
                <td className="num pl-2 text-muted whitespace-nowrap">{bounds}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
