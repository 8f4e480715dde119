/** How a change lies: its interval, its value, and what is not worth a word, about nought in the middle. */

const HEIGHT = 22;
/** A bound that is not known reaches to the end of the axis. */
const END = 5;

export const TONES = {
  bad: "var(--color-error)",
  good: "var(--color-success)",
  open: "var(--color-secondary)",
} as const;
export type Tone = keyof typeof TONES;

export function toneOf(verdict: string): Tone {
  return verdict === "worse" ? "bad" : verdict === "better" ? "good" : "open";
}

/** A round end of an axis on which changes of so much have room. */
export function axisEnd(changes: readonly number[], least: number): number {
  const most = Math.max(least, ...changes.map(Math.abs).filter(Number.isFinite));
  const power = 10 ** Math.floor(Math.log10(most));
  return [1, 1.5, 2, 3, 5, 7.5, 10].map((step) => step * power).find((end) => end >= most * 1.05) ?? 10 * power;
}

export function IntervalBar({
  value,
  low,
  high,
  tolerance,
  end,
  tone,
  width,
}: {
  value: number;
  low: number | null;
  high: number | null;
  tolerance: number;
  /** Where the axis ends to either side. */
  end: number;
  tone: Tone;
  width: number;
}) {
  const x = (change: number) => Math.min(width - END, Math.max(END, (change / end + 1) * (width / 2)));
  const [from, to] = [low === null ? 0 : x(low), high === null ? width : x(high)];
  const cut = { left: low === null || low < -end, right: high === null || high > end };
  const middle = HEIGHT / 2;
  const colour = TONES[tone];
  return (
    <svg width={width} height={HEIGHT} aria-hidden="true" className="block shrink-0">
      <rect
        x={x(-tolerance)}
        width={Math.max(2, x(tolerance) - x(-tolerance))}
        y={1}
        height={HEIGHT - 2}
        fill="var(--color-base-200)"
      />
      <line x1={width / 2} x2={width / 2} y1={0} y2={HEIGHT} stroke="var(--color-secondary)" strokeDasharray="2 2" />
      <rect x={from} width={Math.max(2, to - from)} y={middle - 4} height={8} fill={colour} fillOpacity={0.28} />
      {cut.left && <path d={`M${END} ${middle - 6}L0 ${middle}L${END} ${middle + 6}`} fill="none" stroke={colour} />}
      {cut.right && (
        <path
          d={`M${width - END} ${middle - 6}L${width} ${middle}L${width - END} ${middle + 6}`}
          fill="none"
          stroke={colour}
        />
      )}
      <rect x={x(value) - 2} width={4} y={middle - 8} height={16} fill={colour} />
    </svg>
  );
}
