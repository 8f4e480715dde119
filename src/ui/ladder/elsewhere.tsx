"use client";

import { aroundMark } from "@/core/window/window";
import { usePlace } from "../query/place";
import { useTimes } from "../query/times";

const MAX = 8;

/** The releases that have no rung in this window: when they were heard, and the way there. */
export function Elsewhere({
  heard,
  shown,
  from,
  to,
}: {
  heard: readonly { release: string; firstAt: number; lastAt: number }[];
  shown: readonly string[];
  from: number;
  to: number;
}) {
  const { moment } = useTimes();
  const { chooseWindow } = usePlace();
  const others = heard.filter(({ release }) => release !== "" && !shown.includes(release));
  if (others.length === 0) return null;
  return (
    <p className="mt-2 px-1 text-[12.5px] text-muted">
      Not in this window:{" "}
      {others.slice(0, MAX).map(({ release, firstAt }, i) => (
        <span key={release}>
          {i > 0 && ", "}
          <button
            type="button"
            className="slot num"
            title={`first heard ${moment(firstAt)}; show it`}
            onClick={() => chooseWindow(aroundMark(firstAt, to - from, Date.now()), firstAt)}
          >
            {release}
          </button>{" "}
          from {moment(firstAt).slice(0, -3)}
        </span>
      ))}
      {others.length > MAX && ` and ${others.length - MAX} more`}
    </p>
  );
}
