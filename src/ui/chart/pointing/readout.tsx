import { memo, type RefObject, useEffect, useLayoutEffect, useRef, useState } from "react";
import { settledSteps } from "@/core/reading/result";
import { changeFigures, changeFrom } from "@/core/sheet/shown/change";
import { digits } from "@/core/unit/format";
import type { Span } from "@/core/window/window";
import { shortName } from "../../frame/names";
import type { Times } from "../../frame/times";
import { useTimes } from "../../query/times";
import { type Chart, type Drawn, isWide } from "../drawn";
import { acrossOf, type Plot } from "../scales";
import { useHover, useIsPointing, usePointedStep } from "./hover";

/** A value in a person's units, with its bounds where they are wide: "239 ms (100 to 250)". */
export function valueText(drawn: Drawn, i: number): string {
  const { text, bounds } = valueWithBounds(drawn, i);
  return bounds === "" ? text : `${text} ${bounds}`;
}

function valueWithBounds({ series, write }: Drawn, i: number): { text: string; bounds: string } {
  const value = series.values[i];
  if (value === null) return { text: "no data", bounds: "" };
  const writer = write(value);
  const text = writer.text(value);
  if (!isWide(series, i)) return { text, bounds: "" };
  const low = series.low?.[i];
  const high = series.high?.[i];
  const end = high == null ? "or more" : `to ${digits(high * writer.factor)}`;
  return { text, bounds: low == null ? "" : `(${digits(low * writer.factor)} ${end})` };
}

/** What stands at a moment, for those who do not see it: the time, and the value of each line. */
export function momentInWords({ times, drawn }: Chart, moment: number, clocks: Times): string {
  const index = times.findIndex((end) => end >= moment);
  if (index < 0) return clocks.moment(moment);
  const values = toldAt(drawn, index).map((one) =>
    [one.name, valueText(one, index), changeAt(drawn, one, index)].filter(Boolean).join(" "),
  );
  return `${clocks.moment(times[index])}: ${values.join(", ")}`;
}

/** Values that stand beside the crosshair; of more lines, the greatest there. */
const MAX_TOLD = 12;
/** Characters of a name that a row has room for. */
const MAX_NAME = 34;

function toldAt(drawn: readonly Drawn[], index: number): readonly Drawn[] {
  if (drawn.length <= MAX_TOLD) return drawn;
  const value = ({ series }: Drawn) => series.values[index] ?? Number.NEGATIVE_INFINITY;
  return [...drawn].sort((a, b) => value(b) - value(a)).slice(0, MAX_TOLD);
}

/** How a line differs from the earlier window under it; "" where there is none, or no value on either side. */
function changeAt(drawn: readonly Drawn[], { key, series, share, write, earlier }: Drawn, index: number): string {
  const under = earlier ? undefined : drawn.find((one) => one.earlier && one.key === `${key}e`);
  const change = under && changeFrom(under.series.values[index], series.values[index], share, "neither");
  return change ? changeFigures(change, share, (by) => write(by).text(by)) : "";
}

/** The values at the crosshair, beside it; the same while it stays within a step. */
const Readout = memo(function Readout({
  chart: { times, drawn },
  index,
  left,
  labelWidth,
}: {
  chart: Chart;
  index: number;
  left: boolean;
  labelWidth: number;
}) {
  const { moment: momentText } = useTimes();
  return (
    <div
      className={`plate pointer-events-none absolute top-1 z-10 px-2 py-1 text-[12px] shadow-md ${left ? "left-14" : ""}`}
      style={left ? {} : { right: labelWidth + 6 }}
    >
      <p className="num text-muted">{momentText(times[index])}</p>
      {drawn.some(({ series }) => index >= settledSteps(times, series)) && (
        <p className="text-muted">not all have reported yet</p>
      )}
      <table>
        <tbody>
          {toldAt(drawn, index).map((one) => {
            const { key, name, stroke, earlier } = one;
            const { text, bounds } = valueWithBounds(one, index);
            return (
              <tr key={key}>
                <td
                  className={`max-w-64 truncate pr-3 ${earlier ? "" : "font-semibold"}`}
                  style={{ color: stroke.colour }}
                >
                  {shortName(name, MAX_NAME)}
                </td>
                <td className="num text-right whitespace-nowrap">{text}</td>
                <td className="num pl-2 text-muted whitespace-nowrap">
                  {bounds} {changeAt(drawn, one, index)}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {drawn.length > MAX_TOLD && <p className="text-muted">and {drawn.length - MAX_TOLD} that are less</p>}
    </div>
  );
});

/** Whether a piece is on the screen. */
function useOnScreen(piece: RefObject<Element | null>): boolean {
  const [seen, setSeen] = useState(true);
  useEffect(() => {
    if (!piece.current) return;
    const observer = new IntersectionObserver((entries) => setSeen(entries[entries.length - 1].isIntersecting));
    observer.observe(piece.current);
    return () => observer.disconnect();
  }, [piece]);
  return seen;
}

/** The line itself, moved without React: with each move of the pointer that is all that changes of a chart that is not in hand. */
function CrossLine({ span: { from, to }, plot }: { span: Span; plot: Plot }) {
  const line = useRef<HTMLSpanElement>(null);
  const { moment } = useHover();
  useLayoutEffect(() => {
    const across = acrossOf({ from, to }, plot);
    const place = () => {
      const at = moment.get();
      if (!line.current || at === null) return;
      const { style } = line.current;
      style.visibility = at >= from && at <= to ? "visible" : "hidden";
      style.top = `${plot.y}px`;
      style.height = `${plot.height}px`;
      style.transform = `translateX(${across(at)}px)`;
    };
    place();
    return moment.subscribe(place);
  }, [moment, from, to, plot]);
  return (
    <span
      ref={line}
      aria-hidden="true"
      data-crosshair
      className="pointer-events-none absolute left-0 w-0 border-l border-dashed border-secondary will-change-transform"
    />
  );
}

/** A line at the moment that is pointed at, and the values there, where they are seen. */
export function Crosshair({
  chart,
  frame,
  plot,
  labelWidth,
}: {
  chart: Chart;
  frame: RefObject<Element | null>;
  plot: Plot;
  labelWidth: number;
}) {
  const pointing = useIsPointing();
  const seen = useOnScreen(frame);
  return pointing && seen ? (
    <>
      <CrossLine span={chart} plot={plot} />
      <ValuesAtStep chart={chart} frame={frame} labelWidth={labelWidth} />
    </>
  ) : null;
}

/** The values at the step in hand, on the side of the crosshair that has room. */
function ValuesAtStep({
  chart,
  frame,
  labelWidth,
}: {
  chart: Chart;
  frame: RefObject<Element | null>;
  labelWidth: number;
}) {
  const { times, from, to } = chart;
  const index = usePointedStep(times, frame);
  if (index < 0 || index >= times.length) return null;
  const left = (times[index] - from) / (to - from) > 0.5;
  return <Readout chart={chart} index={index} left={left} labelWidth={labelWidth} />;
}
