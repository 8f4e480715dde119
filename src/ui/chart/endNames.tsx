import { usePlotArea, useYAxisScale } from "recharts";
import type { Drawn, Row } from "./drawn";
import { isDimmed } from "./hover";
import { shortName, spreadLabels } from "./labels";

/** Names at the ends of their lines, apart from each other. */
export function EndNames({
  drawn,
  rows,
  more,
  pointed,
  point,
}: {
  drawn: readonly Drawn[];
  rows: readonly Row[];
  more: number;
  pointed: Record<string, string | null> | null;
  point: (labels: Record<string, string | null> | null) => void;
}) {
  const scale = useYAxisScale();
  const plot = usePlotArea();
  if (!scale || !plot) return null;
  const ends = drawn.map(({ key }) => {
    for (let i = rows.length - 1; i >= 0; i--)
      if (typeof rows[i][key] === "number") return scale(rows[i][key] as number) ?? plot.y;
    return plot.y + plot.height;
  });
  const placed = spreadLabels(ends, 14, plot.y + 4, plot.y + plot.height - (more > 0 ? 16 : 2));
  return (
    <g>
      {drawn.map(({ name, stroke, series, key }, i) => (
        <text
          key={key}
          x={plot.x + plot.width + 7}
          y={placed[i] + 4}
          fill={stroke.colour}
          fontSize={12}
          fontWeight={650}
          opacity={isDimmed(series.labels, pointed) ? 0.3 : 1}
          onPointerEnter={() => point(series.labels)}
          onPointerLeave={() => point(null)}
          style={{ cursor: "default" }}
        >
          <title>{name}</title>
          {shortName(name)}
        </text>
      ))}
      {more > 0 && (
        <text x={plot.x + plot.width + 7} y={plot.y + plot.height + 2} fontSize={12} fill="var(--color-secondary)">
          and {more} more
        </text>
      )}
    </g>
  );
}
