"use client";

import { useEffect, useState } from "react";

/** What takes no longer than this needs no word, ms. */
const SOON = 500;

/** Says that something is still being worked out, and for how long, once it takes longer than a moment. */
export function TakingLong({ what, active }: { what: string; active: boolean }) {
  const [began, setBegan] = useState<number | null>(null);
  const [now, setNow] = useState(0);
  useEffect(() => {
    if (!active) return setBegan(null);
    const start = Date.now();
    setBegan(start);
    setNow(start);
    const timer = setInterval(() => setNow(Date.now()), SOON);
    return () => clearInterval(timer);
  }, [active]);
  if (!active || began === null || now - began < SOON) return null;
  return (
    <p className="mb-2 flex items-center gap-3 text-[13px] text-muted">
      <progress className="progress progress-primary w-32" aria-label={what} />
      <span>
        {what}… <span className="num">{Math.max(1, Math.round((now - began) / 1000))} s</span>
      </span>
    </p>
  );
}
