import { usePlotArea, useYAxisScale } from "recharts";
import { shortName } from "../frame/names";
import type { Drawn, Row } from "./drawn";
import { isDimmed } from "./hover";
import { MAX_LABEL, spreadLabels } from "./labels";

/** Room that a name takes, px. */
const NAME_HEIGHT = 14;

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
  // The names of the largest, as many as there is room for.
  const named = drawn.slice(0, Math.max(1, Math.floor(plot.height / NAME_HEIGHT) - 1));
  const unnamed = more + drawn.length - named.length;
  const ends = named.map(({ key }) => {
    for (let i = rows.length - 1; i >= 0; i--)
      if (typeof rows[i][key] === "number") return scale(rows[i][key] as number) ?? plot.y;
    return plot.y + plot.height;
  });
  const placed = spreadLabels(ends, NAME_HEIGHT, plot.y + 4, plot.y + plot.height - (unnamed > 0 ? 16 : 2));
  return (
    <g>
      {named.map(({ name, stroke, series, key }, i) => (
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
          {shortName(name, MAX_LABEL)}
        </text>
      ))}
      {unnamed > 0 && (
        <text x={plot.x + plot.width + 7} y={plot.y + plot.height + 2} fontSize={12} fill="var(--color-secondary)">
          and {unnamed} more
        </text>
      )}
    </g>
  );
}
