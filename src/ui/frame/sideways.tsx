import { type ReactNode, type RefObject, useEffect, useRef, useState } from "react";

/** Something wider than the page, scrolled sideways by itself (`relative`: with all in it), and by keys where it is. */
export function Sideways({
  label,
  className = "",
  holder,
  children,
}: {
  label: string;
  className?: string;
  holder?: RefObject<HTMLDivElement | null>;
  children: ReactNode;
}) {
  const own = useRef<HTMLDivElement>(null);
  const ref = holder ?? own;
  const [wider, setWider] = useState(false);
  useEffect(() => {
    const node = ref.current;
    if (!node) return;
    const look = () => setWider(node.scrollWidth > node.clientWidth);
    const observer = new ResizeObserver(look);
    observer.observe(node);
    if (node.firstElementChild) observer.observe(node.firstElementChild);
    return () => observer.disconnect();
  }, [ref]);
  return (
    <div
      ref={ref}
      className={`relative overflow-x-auto ${className}`}
      {...(wider ? { role: "region", "aria-label": label, tabIndex: 0 } : {})}
    >
      {children}
    </div>
  );
}
