import type { ChartProps } from "./chartProps";
import type { Chart, Row } from "./drawn";
import type { Labels } from "./pointing/hover";
import { namesAtEnds } from "./room";
import type { Plot } from "./scales";

/** Names at the ends of their lines, apart from each other. */
export function EndNames({
  plot,
  chart,
  rows,
  offset,
  point,
  onName,
}: {
  plot: Plot;
  chart: Chart;
  rows: readonly Row[];
  /** Room that the axis at the right takes, px. */
  offset: number;
  point: (labels: Labels | null) => void;
  onName?: ChartProps["onName"];
}) {
  const { names, unnamed } = namesAtEnds(plot, chart, rows);
  return (
    <g pointerEvents="auto">
      {names.map(({ one: { name, stroke, series, key }, text, y }) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: the same values can be chosen by keys where they stand in tables
        <text
          key={key}
          data-of={key}
          x={plot.x + plot.width + offset + 7}
          y={y + 4}
          fill={stroke.colour}
          fontSize={12}
          fontWeight={650}
          opacity="var(--name, 1)"
          onPointerEnter={() => point(series.labels)}
          onPointerLeave={() => point(null)}
          onClick={(event) => onName?.(series.labels, { x: event.clientX, y: event.clientY })}
          style={{ cursor: onName && Object.keys(series.labels).length > 0 ? "pointer" : "default" }}
        >
          <title>{name}</title>
          {text}
        </text>
      ))}
      {unnamed > 0 && (
        <text
          x={plot.x + plot.width + offset + 7}
          y={plot.y + plot.height + 2}
          fontSize={12}
          fill="var(--color-secondary)"
        >
          and {unnamed} more
        </text>
      )}
    </g>
  );
}
