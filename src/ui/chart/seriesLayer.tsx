import { memo, useId } from "react";
import type { Span } from "@/core/window/window";
import { MAX_WITH_BOUNDS, OPACITY } from "./colours";
import type { Chart, Row } from "./drawn";
import { areaPath, linePath, points } from "./paths";
import { acrossOf, downOf, type Plot } from "./scales";

/** Lines, areas and points of a chart. Its rows and its plot are all that it depends on. */
export const SeriesLayer = memo(function SeriesLayer({
  plot,
  chart,
  rows,
}: {
  plot: Plot;
  chart: Chart;
  rows: readonly Row[];
}) {
  const clip = useId();
  const { x, y, width, height } = plot;
  const span: Span = { from: chart.from, to: chart.to };
  const across = acrossOf(span, plot);
  const left = downOf(chart.left, plot);
  const right = chart.right ? downOf(chart.right, plot) : left;
  const { drawn, style } = chart;
  const parts = drawn.map((one) => {
    const down = one.side === "right" ? right : left;
    const part = (name: string) => points(rows, `${one.key}${name}`, across, down);
    return { ...one, part };
  });
  // The first is the newest: it lies on top.
  const below = [...parts].reverse();
  return (
    <>
      <clipPath id={clip}>
        <rect x={x} y={y - 2} width={width + 2} height={height + 4} />
      </clipPath>
      <g clipPath={`url(#${clip})`} fill="none">
        {style !== "lines" &&
          parts.map(({ key, stroke, part }) => {
            const reach = part("");
            const fresh = chart.unsettled ? part(" fresh") : [];
            return (
              <g key={key} data-of={key} data-area={key} fill={stroke.colour}>
                <path d={areaPath(reach)} fillOpacity={`var(--area, ${OPACITY[style]})`} />
                {style === "stacked" && <path d={linePath(reach)} fill="none" stroke={stroke.colour} />}
                {chart.unsettled && (
                  <>
                    <path data-area={`${key} fresh`} d={areaPath(fresh)} fillOpacity={OPACITY.fresh} />
                    <path d={linePath(fresh)} fill="none" stroke={stroke.colour} strokeDasharray="3 3" />
                  </>
                )}
              </g>
            );
          })}
        {style === "lines" &&
          parts.map(({ key, stroke, part }) => {
            const d = areaPath(part(" bounds"));
            return (
              d !== "" && (
                <path
                  key={key}
                  data-of={key}
                  d={d}
                  fill={stroke.colour}
                  fillOpacity={`var(--bounds, ${drawn.length > MAX_WITH_BOUNDS ? 0 : OPACITY.bounds})`}
                />
              )
            );
          })}
        {style === "lines" &&
          below.map(({ key, stroke, earlier, part }) => (
            <g key={key} data-of={key} stroke={stroke.colour}>
              <path
                data-line={key}
                d={linePath(part(""))}
                strokeWidth={stroke.width}
                strokeOpacity={`var(--line, ${earlier ? 0.7 : 1})`}
                strokeDasharray={earlier ? "2 4" : undefined}
              />
              {chart.unsettled && (
                <path
                  data-line={`${key} fresh`}
                  d={linePath(part(" fresh"))}
                  strokeOpacity="var(--line, 0.8)"
                  strokeDasharray="3 3"
                />
              )}
              {part(" dot").map(
                (point) =>
                  point && (
                    // A value without a neighbour, which no line would show.
                    <circle
                      key={point.x}
                      cx={point.x}
                      cy={point.top}
                      r={2.4}
                      fill={stroke.colour}
                      stroke="none"
                      fillOpacity="var(--line, 1)"
                    />
                  ),
              )}
            </g>
          ))}
      </g>
    </>
  );
});
