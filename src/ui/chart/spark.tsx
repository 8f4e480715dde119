const WIDTH = 104;
const HEIGHT = 26;

/** A small drawing of calls per second over the window; gaps stay gaps. */
export function Spark({
  values,
  top,
  colour,
  wide = false,
}: {
  values: readonly (number | null)[];
  top: number;
  colour: string;
  /** As wide as there is room. */
  wide?: boolean;
}) {
  const x = (i: number) => (i / Math.max(1, values.length - 1)) * WIDTH;
  const y = (value: number) => HEIGHT - 2 - (value / Math.max(top, 1e-12)) * (HEIGHT - 4);
  let path = "";
  let area = "";
  let start = -1;
  values.forEach((value, i) => {
    if (value === null) {
      if (start >= 0) area += `L${x(i - 1)} ${HEIGHT}Z`;
      start = -1;
      return;
    }
    path += `${start < 0 ? "M" : "L"}${x(i)} ${y(value)}`;
    area += start < 0 ? `M${x(i)} ${HEIGHT}L${x(i)} ${y(value)}` : `L${x(i)} ${y(value)}`;
    if (start < 0) start = i;
  });
  if (start >= 0) area += `L${x(values.length - 1)} ${HEIGHT}Z`;
  return (
    <svg
      width={wide ? "100%" : WIDTH}
      height={HEIGHT}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <path d={area} fill={colour} fillOpacity={0.16} />
      <path d={path} fill="none" stroke={colour} strokeWidth={1.5} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}
