/** Heights of the bars, as parts of a hundred. */
const BARS = [42, 55, 48, 61, 70, 66, 58, 73, 62, 54, 60, 68, 57, 49];
const WIDTH = 10;
const GAP = 1;
const SHAPE = BARS.map((height, i) => `M${i * (WIDTH + GAP)} ${100 - height}h${WIDTH}V100h-${WIDTH}z`).join("");
const ALL = BARS.length * (WIDTH + GAP) - GAP;

/** The place of a chart while its answer is on its way: one shape, because what breathes is styled anew with each frame. */
export function ChartSkeleton({ height = 240 }: { height?: number }) {
  return (
    <div role="status" aria-label="Reading…" className="pl-14" style={{ height }}>
      <svg
        viewBox={`0 0 ${ALL} 100`}
        preserveAspectRatio="none"
        aria-hidden="true"
        className="skeleton-shape h-full w-full"
      >
        <path d={SHAPE} />
      </svg>
    </div>
  );
}
