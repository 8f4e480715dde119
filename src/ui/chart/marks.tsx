import type { Span } from "@/core/window/window";
import type { Axis } from "./drawn";
import { BESIDE_LEVEL, BESIDE_MARK, levelsOn, type Mark, marksIn } from "./marking";
import { acrossOf, downOf, type Plot } from "./scales";
import type { PlacedThreshold } from "./thresholds";

/** From the upper edge of letters to the line they stand on. */
const CAP = "0.71em";

const ANCHORS = { over: "middle", right: "start", left: "end" } as const;
const AWAY = { over: 0, right: BESIDE_MARK, left: -BESIDE_MARK };

/** Levels that mean something, below the series of a chart: a line with its words, and the side that is wrong, pale. */
export function Levels({ plot, axis, thresholds }: { plot: Plot; axis: Axis; thresholds: readonly PlacedThreshold[] }) {
  const down = downOf(axis, plot);
  return levelsOn(thresholds, axis).map(({ level, text, colour, wrong }) => (
    <g key={text} data-level={text}>
      {wrong && (
        <rect
          x={plot.x}
          y={down(wrong.high)}
          width={plot.width}
          height={down(wrong.low) - down(wrong.high)}
          fill={colour}
          fillOpacity={0.06}
        />
      )}
      <line
        x1={plot.x}
        x2={plot.x + plot.width}
        y1={down(level)}
        y2={down(level)}
        stroke={colour}
        strokeDasharray="5 3"
      />
      <text
        x={plot.x + BESIDE_LEVEL}
        y={down(level) - BESIDE_LEVEL}
        fontSize={11}
        fontFamily="var(--font-sans)"
        fill={colour}
      >
        {text}
      </text>
    </g>
  ));
}

/** Releases of a window, upon the series of a chart: a line with its name. */
export function Marks({ plot, span, marks }: { plot: Plot; span: Span; marks: readonly Mark[] }) {
  const across = acrossOf(span, plot);
  return (
    <g fontSize={11} fontFamily="var(--font-mono)" fill="var(--color-neutral)" stroke="none">
      {marksIn(marks, span, plot.width).map(({ release, at, name, stands }) => {
        const x = across(at);
        const y = stands === "over" ? plot.y - BESIDE_MARK : plot.y + BESIDE_MARK;
        return (
          <g key={`${release} ${at}`} data-mark={release}>
            <line x1={x} x2={x} y1={plot.y} y2={plot.y + plot.height} stroke="var(--color-neutral)" strokeWidth={1.5} />
            {name && (
              <text x={x + AWAY[stands]} y={y} dy={stands === "over" ? undefined : CAP} textAnchor={ANCHORS[stands]}>
                {name}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}
