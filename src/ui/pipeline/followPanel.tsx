import { useState } from "react";
import type { FollowAnswer, FollowAsked, Followed, FollowedEnd, Named, ShownPoint } from "@/core/draft/followed";
import { formatValue } from "@/core/unit/format";
import { count } from "../frame/amounts";
import { Row, Table } from "../frame/table";
import { useTimes } from "../query/times";
import { Blank } from "../sentence/blank";
import { Slot } from "../sentence/slot";

/** Chosen series and their points, before and after, side by side. */

const MAX_POINTS = 12;

function pairs(attributes: Readonly<Record<string, string>>): string {
  return (
    Object.entries(attributes)
      .map(([key, value]) => `${key}=${value}`)
      .join(" ") || "no attributes"
  );
}

function valueText({ value, count: many, sum }: ShownPoint, unit: string): string {
  if (value !== null) return formatValue(value, unit);
  if (many === null) return "a summary";
  return sum === null ? `${count(many)} counted` : `${count(many)} counted, ${formatValue(sum, unit)} together`;
}

function Points({ of: { points, unit } }: { of: Named & { points: readonly ShownPoint[] } }) {
  const { clock } = useTimes();
  if (points.length === 0) return <p className="text-muted">no point in these minutes</p>;
  const shown = points.slice(-MAX_POINTS);
  return (
    <ul>
      {shown.map((point, i) => (
        <li key={i} className="flex gap-3">
          <span className="text-muted">{clock(point.time, true)}</span>
          <span>{valueText(point, unit)}</span>
        </li>
      ))}
      {points.length > shown.length && <li className="text-muted">{points.length - shown.length} before these</li>}
    </ul>
  );
}

function Newest({ of: { points, unit } }: { of: Named & { points: readonly ShownPoint[] } }) {
  const last = points.at(-1);
  return last ? <span className="block text-muted">{valueText(last, unit)}</span> : null;
}

function End({ end, metric, open }: { end: FollowedEnd; metric: string; open: boolean }) {
  return (
    <div>
      {end.metric !== metric && <b>{end.metric} </b>}
      {pairs(end.attributes)} {end.met && <span className="font-sans text-primary">meets others</span>}
      {open ? <Points of={end} /> : <Newest of={end} />}
    </div>
  );
}

function SeriesRow({ of, open, onToggle }: { of: Followed; open: boolean; onToggle: () => void }) {
  return (
    <Row>
      <td className="num w-1/2 py-1 pr-4 align-top text-[12px] break-all">
        <button
          type="button"
          className="text-left hover:text-primary"
          aria-expanded={open}
          title={open ? "Only the newest points" : "All points of these minutes"}
          onClick={onToggle}
        >
          <span aria-hidden className="text-muted">
            {open ? "▾" : "▸"}{" "}
          </span>
          {pairs(of.attributes)}
        </button>
        {open ? <Points of={of} /> : <Newest of={of} />}
      </td>
      <td className="num py-1 align-top text-[12px] break-all">
        {of.ends.length === 0 && <span className="text-warning">nothing: dropped</span>}
        {of.ends.map((end) => (
          <End key={`${end.metric} ${pairs(end.attributes)}`} end={end} metric={of.metric} open={open} />
        ))}
      </td>
    </Row>
  );
}

export function FollowPanel({
  answer,
  asked,
  onAsk,
}: {
  answer: FollowAnswer;
  asked: FollowAsked;
  onAsk: (asked: FollowAsked) => void;
}) {
  const [open, setOpen] = useState("");
  const { metric, metrics, matching, series } = answer;
  if (metric === "") return null;
  return (
    <section aria-label="Before and after" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">
        What becomes of series of{" "}
        <Slot
          name="metric to follow"
          options={metrics.map((value) => ({ value }))}
          onChoose={(chosen) => onAsk({ metric: chosen, find: "" })}
        >
          {metric}
        </Slot>{" "}
        <span className="font-normal">
          with{" "}
          <Blank
            name="words in their attributes"
            value={asked.find}
            placeholder="any attributes"
            onChange={(find) => onAsk({ metric, find })}
          />{" "}
          <span className="text-muted">
            {matching > series.length ? `${count(matching)} of them, some shown` : `${count(matching)} of them`}
          </span>
        </span>
      </h2>
      {series.length === 0 ? (
        <p className="text-muted">None has these words in its attributes or in those of who sends it.</p>
      ) : (
        <Table heads={["comes in as", "is stored as"]}>
          {series.map((one) => {
            // Series that differ in who sends them only may come to different ends.
            const key = JSON.stringify([
              one.attributes,
              one.ends.map(({ metric: end, attributes }) => [end, attributes]),
            ]);
            return (
              <SeriesRow key={key} of={one} open={key === open} onToggle={() => setOpen(key === open ? "" : key)} />
            );
          })}
        </Table>
      )}
    </section>
  );
}
