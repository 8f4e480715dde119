"use client";

import { usePathname } from "next/navigation";
import { type KeyboardEvent, type PointerEvent as ReactPointerEvent, useRef, useState } from "react";
import { shiftText } from "@/core/release/driftSays";
import { earlierText } from "@/core/window/earlier";
import { HOUR } from "@/core/window/lengths";
import { fixed, LENGTHS, lengthInWords, refreshEvery, type Span } from "@/core/window/window";
import { apart, MAX_LABEL, nameRows } from "../chart/labels";
import { useEarlier } from "../query/earlier";
import { usePlace, useSpan, useZone } from "../query/place";
import { useTimes } from "../query/times";
import { useRail, useService } from "../query/use";
import { ServiceSlot } from "../sentence/serviceSlot";
import { Slot } from "../sentence/slot";
import { shortName } from "./names";
import { duration } from "./times";
import type { Travel } from "./travel";

/** An earlier window that lies nearer than this is the window itself, ms. */
const LEAST_BACK = 5000;

const WIDTH = 1000;
const HEIGHT = 46;

type Grip = "from" | "to" | "both" | "draw" | "earlier";

interface Drag {
  grip: Grip;
  /** Where the pointer went down, as a time. */
  at: number;
  span: Span;
}

function silhouette(
  times: readonly number[],
  traffic: readonly (number | null)[],
  x: (time: number) => number,
): string {
  const top = Math.max(1e-9, ...traffic.map((value) => value ?? 0));
  let path = "";
  let open = false;
  times.forEach((time, i) => {
    const value = traffic[i];
    if (value === null) {
      if (open) path += `L${x(times[i - 1])} ${HEIGHT}Z`;
      open = false;
      return;
    }
    const y = HEIGHT - (value / top) * (HEIGHT - 8);
    path += open ? `L${x(time)} ${y}` : `M${x(time)} ${HEIGHT}L${x(time)} ${y}`;
    open = true;
  });
  return open ? `${path}L${x(times[times.length - 1])} ${HEIGHT}Z` : path;
}

/** Room for the name of a release, in the rail's own units. */
const NAME_WIDTH = 55;
/** Marks that are nearer to each other are drawn as one. */
const MARKS_APART = 6;

/** The time rail: the window in time on a longer stretch of traffic, with the releases marked. Dragged to choose. */
export function TimeRail({ travel }: { travel: Travel }) {
  const { clock, dayWithYear, moment, tick, tickTimes, offset } = useTimes();
  const { choice, chooseWindow } = usePlace();
  const span = useSpan();
  const rail = useRail(span);
  const place = useService();
  const zone = useZone();
  const [drag, setDrag] = useState<Drag | null>(null);
  const [dragged, setDragged] = useState<Span | null>(null);
  const [earlier, chooseEarlier] = useEarlier();
  // Only sheets lay an earlier window under the one in hand.
  const takesEarlier = usePathname().startsWith("/sheets/");
  const [back, setBack] = useState<number | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const wide = rail.span;
  const shown = dragged ?? span;
  const x = (time: number) => (wide ? ((time - wide.from) / (wide.to - wide.from)) * WIDTH : 0);
  const timeAt = (clientX: number) => {
    const { left, width } = box.current!.getBoundingClientRect();
    return wide!.from + Math.min(1, Math.max(0, (clientX - left) / width)) * (wide!.to - wide!.from);
  };

  const begin = (grip: Grip) => (event: ReactPointerEvent) => {
    if (!wide || !span) return;
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    const at = timeAt(event.clientX);
    const second = takesEarlier && (event.shiftKey || grip === "earlier");
    if (!second) return setDrag({ grip, at, span });
    // Where it is taken up, it goes on from where it lies; else its middle comes to the pointer.
    const lies = grip === "earlier" ? (earlier?.back ?? 0) : (span.from + span.to) / 2 - at;
    setDrag({ grip: "earlier", at: at + lies, span });
    if (grip !== "earlier") setBack(Math.max(0, lies));
  };
  const move = (event: ReactPointerEvent) => {
    if (!drag) return;
    const at = timeAt(event.clientX);
    const by = at - drag.at;
    if (drag.grip === "earlier") return setBack(Math.max(0, -by));
    const { from, to } = drag.span;
    if (drag.grip === "from") setDragged({ from: Math.min(from + by, to - 10_000), to });
    else if (drag.grip === "to") setDragged({ from, to: Math.max(to + by, from + 10_000) });
    else if (drag.grip === "both") setDragged({ from: from + by, to: to + by });
    else setDragged({ from: Math.min(at, drag.at), to: Math.max(at, drag.at) });
  };
  const end = () => {
    if (drag?.grip === "earlier" && back !== null) chooseEarlier(back < LEAST_BACK ? "" : earlierText(back));
    else if (dragged && dragged.to - dragged.from >= 5000) chooseWindow(fixed(dragged.from, dragged.to));
    setDrag(null);
    setDragged(null);
    setBack(null);
  };
  const nudge = (grip: "from" | "to") => (event: KeyboardEvent) => {
    if (!span || (event.key !== "ArrowLeft" && event.key !== "ArrowRight")) return;
    event.preventDefault();
    const by = ((event.key === "ArrowLeft" ? -1 : 1) * (span.to - span.from)) / (event.shiftKey ? 4 : 24);
    const next = { ...span, [grip]: span[grip] + by };
    if (next.to - next.from >= 10_000) chooseWindow(fixed(next.from, next.to));
  };

  const liesBack = back ?? (takesEarlier ? (earlier?.back ?? null) : null);
  const nudgeEarlier = (event: KeyboardEvent) => {
    if (!span || liesBack === null || (event.key !== "ArrowLeft" && event.key !== "ArrowRight")) return;
    event.preventDefault();
    const by = ((event.key === "ArrowLeft" ? 1 : -1) * (span.to - span.from)) / (event.shiftKey ? 4 : 24);
    if (liesBack + by >= LEAST_BACK) chooseEarlier(earlierText(liesBack + by));
  };

  const live = choice.type === "last";
  const title = live
    ? `Last ${lengthInWords(choice.length)}`
    : span
      ? `${dayWithYear(span.from)} ${clock(span.from)} – ${dayWithYear(span.to) === dayWithYear(span.from) ? "" : `${dayWithYear(span.to)} `}${clock(span.to)}`
      : "";
  const marks = apart(
    (rail.data?.marks ?? []).filter(({ at }) => wide && at > wide.from && at <= wide.to),
    ({ at }) => x(at),
    MARKS_APART,
  );
  const rows = nameRows(
    marks.map(({ at }) => Math.min(x(at), WIDTH - 60)),
    NAME_WIDTH,
    2,
  );
  const handle = (grip: "from" | "to") =>
    shown && (
      <div
        role="slider"
        tabIndex={0}
        aria-label={grip === "from" ? "Start of the window" : "End of the window"}
        aria-valuemin={wide?.from ?? 0}
        aria-valuemax={wide?.to ?? 0}
        aria-valuenow={Math.round(shown[grip])}
        aria-valuetext={moment(shown[grip])}
        onPointerDown={begin(grip)}
        onKeyDown={nudge(grip)}
        className="absolute -top-1 -bottom-1 z-20 -ml-[5px] w-[10px] cursor-ew-resize touch-none before:absolute before:top-0 before:bottom-1 before:left-[3.5px] before:w-[3px] before:bg-primary"
        style={{ left: `${(x(shown[grip]) / WIDTH) * 100}%` }}
      />
    );

  return (
    <section
      aria-label="Time rail"
      data-frame="rail"
      className="flex h-[76px] shrink-0 items-center gap-4 border-t border-base-300 bg-[color-mix(in_srgb,var(--color-base-300)_22%,var(--color-base-200))] px-5"
    >
      <div className="w-[168px] shrink-0">
        <div className="font-bold" style={{ fontStretch: "86%" }}>
          <Slot
            name="window"
            options={LENGTHS.map((length) => ({ value: String(length), label: `last ${lengthInWords(length)}` }))}
            onChoose={(value) => chooseWindow({ type: "last", length: Number(value) })}
          >
            {title || "Window"}
          </Slot>
        </div>
        <div className="mt-0.5 text-[12px] text-muted">
          {live ? (
            `live, every ${duration(refreshEvery(choice.length))}`
          ) : (
            <button
              type="button"
              className="underline decoration-dotted underline-offset-2 hover:text-base-content"
              onClick={() => chooseWindow({ type: "last", length: 6 * HOUR })}
            >
              standing still; go live
            </button>
          )}
          {span && <span title={`Times are those of ${zone}`}>, {offset(span.to)}</span>}
        </div>
        {place && (
          <div className="text-[12px] text-muted">
            <ServiceSlot oneLine /> {place.environment && `in ${place.environment}`}
          </div>
        )}
      </div>
      <div className="relative flex-1">
        <div
          ref={box}
          className="relative h-[46px] cursor-crosshair touch-none bg-[var(--rail-light)] select-none"
          onPointerDown={begin("draw")}
          onPointerMove={move}
          onPointerUp={end}
          onPointerCancel={end}
        >
          <svg
            aria-hidden="true"
            viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
            preserveAspectRatio="none"
            className="absolute inset-0 h-full w-full"
          >
            {rail.data && (
              <path
                d={silhouette(rail.data.times, rail.data.traffic, x)}
                fill="var(--color-secondary)"
                fillOpacity={0.3}
                stroke="var(--color-secondary)"
                strokeWidth={1}
                vectorEffect="non-scaling-stroke"
              />
            )}
          </svg>
          {shown && (
            <div
              className="absolute inset-y-0 cursor-grab bg-primary/12 active:cursor-grabbing"
              style={{
                left: `${(x(shown.from) / WIDTH) * 100}%`,
                width: `${((x(shown.to) - x(shown.from)) / WIDTH) * 100}%`,
              }}
              onPointerDown={begin("both")}
            />
          )}
          {wide && span && liesBack !== null && span.to - liesBack > wide.from && (
            <div
              role="slider"
              tabIndex={0}
              aria-label="The earlier window"
              aria-valuemin={wide.from}
              aria-valuemax={span.from}
              aria-valuenow={Math.round(Math.max(wide.from, span.from - liesBack))}
              aria-valuetext={`from ${moment(span.from - liesBack)}`}
              title="the earlier window: drag it, or move it with the arrow keys"
              className="absolute inset-y-0 z-10 cursor-grab touch-none border-2 border-dashed border-secondary active:cursor-grabbing"
              style={{
                left: `${(Math.max(0, x(span.from - liesBack)) / WIDTH) * 100}%`,
                width: `${((x(span.to - liesBack) - Math.max(0, x(span.from - liesBack))) / WIDTH) * 100}%`,
              }}
              onPointerDown={begin("earlier")}
              onKeyDown={nudgeEarlier}
            />
          )}
          {marks.map(({ release, at }, i) => {
            const row = rows[i];
            return (
              <div
                key={`${release} ${at}`}
                className="pointer-events-none absolute inset-y-0 border-l-2 border-neutral"
                style={{ left: `${(x(at) / WIDTH) * 100}%` }}
                title={`${release}, first heard ${moment(at)}`}
              >
                {row >= 0 && (
                  <span
                    className={`num absolute bg-neutral px-1 text-[11px] leading-[15px] text-neutral-content ${row === 1 ? "top-[16px]" : "top-0"} ${x(at) > WIDTH - 60 ? "right-0" : "left-0"}`}
                  >
                    {shortName(release, MAX_LABEL)}
                  </span>
                )}
              </div>
            );
          })}
          {(rail.data?.shifts ?? []).map((shift) => (
            <span
              key={`${shift.measure} ${shift.at}`}
              className="pointer-events-auto absolute bottom-0 z-10 -translate-x-1/2 text-[13px] leading-none text-error"
              style={{ left: `${(x(shift.at) / WIDTH) * 100}%` }}
              title={`nothing was released, yet ${shiftText(shift)} at about ${moment(shift.at).slice(0, -3)}${shift.cause === null ? "" : `, from ${shift.cause}`}`}
            >
              <span aria-hidden="true">◆</span>
              <span className="sr-only">nothing was released, yet {shiftText(shift)}</span>
            </span>
          ))}
          {handle("from")}
          {handle("to")}
        </div>
        <div aria-hidden="true" className="num relative h-[13px] text-[10.5px] text-muted">
          {wide &&
            tickTimes(wide.from, wide.to, 9).map((time) => (
              <span
                key={time}
                className="absolute -translate-x-1/2 whitespace-nowrap"
                style={{ left: `${(x(time) / WIDTH) * 100}%` }}
              >
                {tick(time, wide.to - wide.from)}
              </span>
            ))}
        </div>
      </div>
      <div className="flex shrink-0 gap-1">
        <button
          type="button"
          className="btn btn-sm"
          disabled={!travel.before}
          onClick={() => travel.go(-1)}
          title="The release before: ["
        >
          ◀ release
        </button>
        <button
          type="button"
          className="btn btn-sm"
          disabled={!travel.after}
          onClick={() => travel.go(1)}
          title="The release after: ]"
        >
          release ▶
        </button>
      </div>
    </section>
  );
}
