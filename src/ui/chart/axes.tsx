import type { Span } from "@/core/window/window";
import { useTimes } from "../query/times";
import { BESIDE, tickText } from "./axisText";
import type { Axis } from "./drawn";
import { acrossOf, downOf, type Plot } from "./scales";

/** Values at the sides with their lines across, times below. No text is measured: what is written was chosen to fit. */
export function Axes({
  plot,
  span,
  times,
  left,
  right,
}: {
  plot: Plot;
  span: Span;
  /** Moments that are written. */
  times: readonly number[];
  left: Axis;
  right: Axis | null;
}) {
  const { tick } = useTimes();
  const across = acrossOf(span, plot);
  const down = downOf(left, plot);
  const downRight = right && downOf(right, plot);
  const foot = plot.y + plot.height;
  const end = plot.x + plot.width;
  return (
    <g fontSize={11} fontFamily="var(--font-mono)" fill="var(--color-secondary)" stroke="none">
      {left.ticks.map((value) => (
        <g key={value}>
          <line
            x1={plot.x}
            x2={end}
            y1={down(value)}
            y2={down(value)}
            stroke="var(--color-base-300)"
            strokeOpacity={0.55}
          />
          <text x={plot.x - BESIDE} y={down(value)} dy="0.355em" textAnchor="end">
            {tickText(left, value)}
          </text>
        </g>
      ))}
      {right &&
        downRight &&
        right.ticks.map((value) => (
          <text key={value} x={end + BESIDE} y={downRight(value)} dy="0.355em">
            {tickText(right, value)}
          </text>
        ))}
      <line x1={plot.x} x2={end} y1={foot} y2={foot} stroke="var(--color-base-300)" />
      {times.map((at) => (
        <text key={at} x={across(at)} y={foot + BESIDE} dy="0.71em" textAnchor="middle">
          {tick(at, span.to - span.from)}
        </text>
      ))}
    </g>
  );
}
