import type { Percentile } from "@/core/reading/ladder";
import { formatValue } from "@/core/unit/format";
import { placeOn } from "../chart/logAxis";

/** Width of a strip where there is room, and the least that holds the names of both marks, px. */
export const HEAT_WIDTH = 404;
export const LEAST_HEAT = 176;
const STRIP = 26;

const CHARACTER = 7.3;

/** Where the names of marks stand: under them, but inside the strip and apart from each other. */
function labelCentres(marks: readonly { x: number; text: string }[], width: number): number[] {
  const half = marks.map(({ text }) => (text.length * CHARACTER) / 2 + 1);
  const centres = marks.map(({ x }, i) => Math.min(width - half[i], Math.max(half[i], x)));
  if (centres.length === 2) {
    const overlap = half[0] + half[1] + 6 - (centres[1] - centres[0]);
    if (overlap > 0) {
      const right = Math.min(overlap / 2, width - half[1] - centres[1]);
      centres[1] += right;
      centres[0] -= overlap - right;
    }
  }
  return centres;
}

/** Latency of one release: how many calls took how long, on the axis that all releases share, with p50 and p95. */
export function HeatStrip({
  axis,
  heat,
  p50,
  p95,
  unit,
  colour,
  width,
}: {
  axis: readonly number[];
  heat: readonly number[];
  p50: Percentile | null;
  p95: Percentile | null;
  unit: string;
  colour: string;
  /** px */
  width: number;
}) {
  const top = Math.max(...heat, 1e-12);
  const cell = width / Math.max(1, heat.length);
  const marks = [
    { name: "p50", bounded: p50 },
    { name: "p95", bounded: p95 },
  ].flatMap(({ name, bounded }) =>
    bounded
      ? [
          {
            name,
            value: bounded.value,
            x: placeOn(axis, bounded.value, width),
            text: `${name} ${formatValue(bounded.value, unit)}`,
          },
        ]
      : [],
  );
  const centres = labelCentres(marks, width);
  return (
    <svg width={width} height={STRIP + 22} role="img" aria-label={marks.map(({ text }) => text).join(", ")}>
      <rect width={width} height={STRIP} y={3} fill="var(--color-base-200)" />
      {heat.map((share, i) => (
        <rect
          key={i}
          x={i * cell}
          y={3}
          width={cell + 0.4}
          height={STRIP}
          fill={colour}
          fillOpacity={(share / top) ** 0.6}
        />
      ))}
      {marks.map(({ name, x, text }, i) => (
        <g key={name}>
          <line x1={x} x2={x} y1={0} y2={STRIP + 6} stroke="var(--color-base-content)" strokeWidth={2} />
          <text
            x={centres[i]}
            y={STRIP + 19}
            textAnchor="middle"
            fontSize={12}
            fontFamily="var(--font-mono)"
            fill="var(--color-base-content)"
          >
            {text}
          </text>
        </g>
      ))}
    </svg>
  );
}
