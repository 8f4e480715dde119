import { type RefObject, useMemo, useRef, useState } from "react";
import type { LookAs } from "@/core/sheet/looks";
import { bandWords, nameOf } from "@/core/sheet/shown/names";
import { drawnEnds, type SpreadGroup, spreadGroups } from "@/core/sheet/shown/spread";
import { writerFor } from "@/core/sheet/shown/writer";
import { digits } from "@/core/unit/format";
import { useHover, usePointedStep } from "../../chart/pointing/hover";
import { placedIn } from "../../chart/thresholds";
import { useTimes } from "../../query/times";
import type { LookProps, ShownReading } from "./props";

const AXIS = 62;
const WIDTH = 1000;
const TIMES = 5;

/** A value on a logarithmic axis where all is above zero, else on a plain one; 0 at the bottom, 1 at the top. */
function placeOn(low: number, high: number): (value: number) => number {
  if (high === low) return () => 0.5;
  if (low > 0) return (value) => Math.log(Math.max(value, low) / low) / Math.log(high / low);
  return (value) => (value - low) / (high - low);
}

/** What lies where at a moment, in words: for the pointer, and for those who do not see it. */
function Told({
  group,
  reading,
  frame,
}: {
  group: SpreadGroup;
  reading: ShownReading;
  frame: RefObject<Element | null>;
}) {
  const { clock } = useTimes();
  const { result } = reading;
  const at = usePointedStep(result.times, frame);
  if (at < 0) return null;
  const write = (value: number) => writerFor({ unit: result.bandUnit ?? "", share: false }, reading, value).text(value);
  const most = [...group.bands]
    .filter(({ values }) => (values[at] ?? 0) > 0)
    .sort((a, b) => (b.values[at] ?? 0) - (a.values[at] ?? 0))
    .slice(0, 4);
  return (
    <div className="plate pointer-events-none absolute top-1 right-2 z-10 px-2 py-1 text-[12px] shadow-md">
      <p className="num text-muted">{clock(result.times[at], true)}</p>
      {most.length === 0 ? (
        <p>nothing</p>
      ) : (
        most.map((one) => (
          <p key={String(one.band.low)} className="num">
            {bandWords(one.band, write)}: {digits(one.values[at] ?? 0)}
          </p>
        ))
      )}
    </div>
  );
}

function Strip({
  group,
  reading,
  look,
  height,
}: {
  group: SpreadGroup;
  reading: ShownReading;
  look: LookAs<"heat">;
  height: number;
}) {
  const { tick, tickTimes } = useTimes();
  const hover = useHover();
  const frame = useRef<HTMLDivElement>(null);
  const { result } = reading;
  const drawing = useMemo(() => {
    // What nothing ever fell into is left out at both ends.
    const filled = group.bands.map(({ total }) => (total ?? 0) > 0);
    const [first, last] = [filled.indexOf(true), filled.lastIndexOf(true)];
    const bands = first < 0 ? [] : group.bands.slice(first, last + 1);
    const ends = drawnEnds(bands.map(({ band }) => band));
    const positive = ends.filter(({ low }) => low > 0);
    // A lowest band that begins at zero stands at the foot of a logarithmic axis.
    const low =
      positive.length > 0 && ends[0]?.low >= 0
        ? positive[0].low / (positive.length < ends.length ? 1.6 : 1)
        : (ends[0]?.low ?? 0);
    const high = ends[ends.length - 1]?.high ?? 1;
    const top = bands.reduce((most, { values }) => values.reduce<number>((a, v) => Math.max(a, v ?? 0), most), 0);
    return { bands, ends, low, high, top };
  }, [group]);
  const { bands, ends, low, high, top } = drawing;
  const place = placeOn(low, high);
  const span = result.to - result.from;
  const x = (time: number) => ((time - result.from) / span) * WIDTH;
  const y = (value: number) => height - 18 - place(value) * (height - 24);
  const write = (value: number) => writerFor({ unit: result.bandUnit ?? "", share: false }, reading, value).text(value);
  const levels = [low, low > 0 ? Math.sqrt(low * high) : (low + high) / 2, high];
  const thresholds = placedIn(look.thresholds, result.bandUnit ?? "").filter(
    ({ value }) => value >= low && value <= high,
  );
  return (
    <div
      ref={frame}
      className="relative"
      onPointerMove={(event) => {
        const { left, width } = event.currentTarget.getBoundingClientRect();
        hover.moment.set(result.from + ((event.clientX - left - AXIS) / (width - AXIS)) * span);
      }}
      onPointerLeave={() => hover.moment.set(null)}
    >
      <div
        className="num absolute inset-y-0 left-0 text-[11px] text-secondary"
        style={{ width: AXIS - 6 }}
        aria-hidden="true"
      >
        {levels.map((value) => (
          <span key={value} className="absolute right-0 -translate-y-1/2 whitespace-nowrap" style={{ top: y(value) }}>
            {write(value)}
          </span>
        ))}
      </div>
      <svg
        viewBox={`0 0 ${WIDTH} ${height}`}
        preserveAspectRatio="none"
        shapeRendering="crispEdges"
        className="block"
        style={{ marginLeft: AXIS, width: `calc(100% - ${AXIS}px)`, height }}
        role="img"
        aria-label={`${result.reading}: ${digits(group.bands.reduce((sum, { total }) => sum + (total ?? 0), 0))} values between ${write(low)} and ${write(high)}`}
      >
        <rect width={WIDTH} height={height - 18} fill="var(--color-base-200)" />
        {bands.map(({ values, band }, b) =>
          values.map((value, i) => {
            if (!value || value <= 0) return null;
            const start = i === 0 ? result.from : result.times[i - 1];
            const [upper, lower] = [y(ends[b].high), y(Math.max(ends[b].low, low))];
            return (
              <rect
                key={`${band.low} ${result.times[i]}`}
                x={x(start)}
                y={upper}
                width={Math.max(0.5, x(result.times[i]) - x(start))}
                height={Math.max(1, lower - upper)}
                fill="var(--color-primary)"
                fillOpacity={0.08 + 0.92 * (value / top) ** 0.6}
              />
            );
          }),
        )}
        {thresholds.map(({ at, value }) => (
          <line
            key={at}
            x1={0}
            x2={WIDTH}
            y1={y(value)}
            y2={y(value)}
            stroke="var(--color-error)"
            strokeDasharray="5 3"
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </svg>
      <div
        className="num relative h-4 text-[11px] text-secondary"
        style={{ marginLeft: AXIS, marginTop: -16 }}
        aria-hidden="true"
      >
        {tickTimes(result.from, result.to, TIMES).map((time) => (
          <span key={time} className="absolute -translate-x-1/2" style={{ left: `${(x(time) / WIDTH) * 100}%` }}>
            {tick(time, span)}
          </span>
        ))}
      </div>
      {thresholds.map(({ at, word, value }) => (
        <span key={at} className="absolute text-[11px] text-error" style={{ left: AXIS + 4, top: y(value) - 16 }}>
          {word} {at}
        </span>
      ))}
      <Told group={group} reading={reading} frame={frame} />
    </div>
  );
}

const MOST = 4;

/** The counts of a spread as a table, newest first: for those who do not see shades, or want the figures. */
function CountTable({ group, reading, height }: { group: SpreadGroup; reading: ShownReading; height: number }) {
  const { moment } = useTimes();
  const { result } = reading;
  const write = (value: number) => writerFor({ unit: result.bandUnit ?? "", share: false }, reading, value).text(value);
  const bands = group.bands.filter(({ total }) => (total ?? 0) > 0);
  const order = result.times.map((_, i) => i).reverse();
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keys
    <section tabIndex={0} aria-label="Counts" className="overflow-auto" style={{ height }}>
      <table className="w-full text-[12px]">
        <thead className="sticky top-0 bg-base-100">
          <tr className="border-b border-base-300 text-left">
            <th scope="col" className="pr-4">
              until
            </th>
            {bands.map(({ band }) => (
              <th key={String(band.low)} scope="col" className="pr-4 text-right whitespace-nowrap">
                {bandWords(band, write)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {order.map((i) => (
            <tr key={result.times[i]}>
              <th scope="row" className="num pr-4 text-left font-normal whitespace-nowrap text-muted">
                {moment(result.times[i])}
              </th>
              {bands.map(({ band, values }) => (
                <td key={String(band.low)} className="num pr-4 text-right">
                  {values[i] === null ? "—" : digits(values[i])}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** How a spread changes its shape: time along the foot, values up the side, the darker the more. */
export function Heat({ look, readings, height }: LookProps<LookAs<"heat">>) {
  const [reading] = readings;
  const [table, setTable] = useState(false);
  const groups = spreadGroups(reading.result);
  if (groups.length === 0) return <NoSpread />;
  const each = groups.length === 1 ? height : Math.max(70, height / Math.min(groups.length, MOST));
  return (
    <div className="group relative">
      <button
        type="button"
        data-beside="yes"
        aria-pressed={table}
        className="slot absolute -top-9 right-0 bg-base-100 text-[12px] opacity-0 group-hover:opacity-100 focus:opacity-100 aria-pressed:opacity-100"
        onClick={() => setTable(!table)}
      >
        as a table
      </button>
      {groups.slice(0, MOST).map((group) => (
        <div key={JSON.stringify(group.labels)}>
          {groups.length > 1 && <p className="text-[12px] font-semibold">{nameOf(group, reading.names)}</p>}
          {table ? (
            <CountTable group={group} reading={reading} height={each} />
          ) : (
            <Strip group={group} reading={reading} look={look} height={each} />
          )}
        </div>
      ))}
      {groups.length > MOST && <p className="text-[12.5px] text-muted">and {groups.length - MOST} more</p>}
    </div>
  );
}

export function NoSpread() {
  return (
    <p className="py-2 text-warning">
      ◆ This way needs a spread: <span className="num">spread of</span> a histogram, as in{" "}
      <span className="num">spread of http.server.request.duration</span>.
    </p>
  );
}
