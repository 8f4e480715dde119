import type { ReactNode } from "react";
import { useHover } from "../../chart/pointing/hover";
import { useScope } from "../scope";

/** A value of labels: pointing at it highlights it on every plate that has it; choosing it tells what can be done with it. */
export function Value({
  labels,
  text,
  children,
  className = "",
}: {
  labels: Record<string, string | null>;
  /** The reading that it is of. */
  text: string;
  children: ReactNode;
  className?: string;
}) {
  const { set } = useHover().labels;
  const { onValue } = useScope();
  if (!onValue || Object.keys(labels).length === 0) return <span className={className}>{children}</span>;
  return (
    <button
      type="button"
      className={`value text-left ${className}`}
      onPointerEnter={() => set(labels)}
      onPointerLeave={() => set(null)}
      onFocus={() => set(labels)}
      onBlur={() => set(null)}
      onClick={(event) => {
        const { left, bottom } = event.currentTarget.getBoundingClientRect();
        onValue(labels, { x: left, y: bottom }, text);
      }}
    >
      {children}
    </button>
  );
}
