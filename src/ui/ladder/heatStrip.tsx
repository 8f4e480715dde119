import type { Bounded } from "@/core/histogram/quantile";
import { formatValue } from "@/core/unit/format";

export const HEAT_WIDTH = 372;
const STRIP = 26;

function place(axis: readonly number[], value: number): number {
  const low = axis[0];
  const high = axis[axis.length - 1];
  if (value <= low) return 0;
  return Math.min(1, Math.log(value / low) / Math.log(high / low)) * HEAT_WIDTH;
}

/** Round values for a logarithmic axis: 1, 2.5 and 5 of each power of ten, thinned where they crowd. */
export function axisTicks(axis: readonly number[]): { value: number; x: number }[] {
  if (axis.length === 0) return [];
  const ticks: { value: number; x: number }[] = [];
  for (let power = Math.floor(Math.log10(axis[0])); power <= Math.log10(axis[axis.length - 1]); power++) {
    for (const factor of [1, 2.5, 5]) {
      const value = Number((factor * 10 ** power).toPrecision(3));
      if (value < axis[0] || value > axis[axis.length - 1]) continue;
      const x = place(axis, value);
      if (ticks.every((tick) => x - tick.x > 38) && x < HEAT_WIDTH - 6) ticks.push({ value, x });
    }
  }
  return ticks;
}

/** Latency of one release: how many calls took how long, on the axis that all releases share, with p50 and p95. */
export function HeatStrip({ axis, heat, p50, p95, unit, colour }: { axis: readonly number[]; heat: readonly number[]; p50: Bounded | null; p95: Bounded | null; unit: string; colour: string }) {
  const top = Math.max(...heat, 1e-12);
  const width = HEAT_WIDTH / Math.max(1, heat.length);
  const marks = [
    { name: "p50", bounded: p50 },
    { name: "p95", bounded: p95 },
  ].flatMap(({ name, bounded }) => (bounded ? [{ name, value: bounded.value, x: place(axis, bounded.value), text: `${name} ${formatValue(bounded.value, unit)}` }] : []));
  const [first, second] = marks;
  const close = first && second && second.x - first.x < 104;
  return (
    <svg width={HEAT_WIDTH} height={STRIP + 22} role="img" aria-label={marks.map(({ text }) => text).join(", ")}>
      <rect width={HEAT_WIDTH} height={STRIP} y={3} fill="var(--color-base-200)" />
      {heat.map((share, i) => (
        <rect
          // biome-ignore lint/suspicious/noArrayIndexKey: bins stand in their order
          key={i}
          x={i * width}
          y={3}
          width={width + 0.4}
          height={STRIP}
          fill={colour}
          fillOpacity={(share / top) ** 0.6}
        />
      ))}
      {marks.map(({ name, x, text }, i) => (
        <g key={name}>
          <line x1={x} x2={x} y1={0} y2={STRIP + 6} stroke="var(--color-base-content)" strokeWidth={2} />
          <text
            x={Math.min(HEAT_WIDTH - 2, Math.max(2, close ? (i === 0 ? x + 4 : x + 2) : x))}
            y={STRIP + 19}
            textAnchor={close ? (i === 0 ? "end" : "start") : x > HEAT_WIDTH - 48 ? "end" : x < 48 ? "start" : "middle"}
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
