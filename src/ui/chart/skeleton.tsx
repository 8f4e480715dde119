/** The place of a chart while its answer is on its way. */
export function ChartSkeleton({ height = 240 }: { height?: number }) {
  return (
    <div role="status" aria-label="Reading…" className="flex items-end gap-1.5 pl-14" style={{ height }}>
      {[42, 55, 48, 61, 70, 66, 58, 73, 62, 54, 60, 68, 57, 49].map((part, i) => (
        <span key={i} className="skeleton-bar flex-1" style={{ height: `${part}%` }} />
      ))}
    </div>
  );
}
