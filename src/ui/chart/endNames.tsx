import { shortName } from "../frame/names";
import type { ChartProps } from "./chartProps";
import type { Chart, Row } from "./drawn";
import { MAX_LABEL, spreadLabels } from "./labels";
import type { Labels } from "./pointing/hover";
import { downOf, type Plot } from "./scales";

/** Room that a name takes, px. */
const NAME_HEIGHT = 14;

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
  const { drawn, more } = chart;
  const left = downOf(chart.left, plot);
  const right = chart.right ? downOf(chart.right, plot) : left;
  // The names of the largest, as many as there is room for.
  const own = drawn.filter(({ earlier }) => !earlier);
  const named = own.slice(0, Math.max(1, Math.floor(plot.height / NAME_HEIGHT) - 1));
  const unnamed = more + own.length - named.length;
  const ends = named.map(({ key, side }) => {
    const down = side === "right" ? right : left;
    for (let i = rows.length - 1; i >= 0; i--) {
      const value = rows[i][key];
      // What stands on top of others is named in the middle of its area.
      if (value != null) return down(typeof value === "number" ? value : (value[0] + value[1]) / 2);
    }
    return plot.y + plot.height;
  });
  const placed = spreadLabels(ends, NAME_HEIGHT, plot.y + 4, plot.y + plot.height - (unnamed > 0 ? 16 : 2));
  return (
    <g pointerEvents="auto">
      {named.map(({ name, stroke, series, key }, i) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: the same values can be chosen by keys where they stand in tables
        <text
          key={key}
          x={plot.x + plot.width + offset + 7}
          y={placed[i] + 4}
          fill={stroke.colour}
          fontSize={12}
          fontWeight={650}
          opacity={`var(--name-${key}, 1)`}
          onPointerEnter={() => point(series.labels)}
          onPointerLeave={() => point(null)}
          onClick={(event) => onName?.(series.labels, { x: event.clientX, y: event.clientY })}
          style={{ cursor: onName && Object.keys(series.labels).length > 0 ? "pointer" : "default" }}
        >
          <title>{name}</title>
          {shortName(name, MAX_LABEL)}
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
