"use client";

import type { LatestPoint } from "@/core/api/instruments";
import { formatValue } from "@/core/unit/format";
import { MINUTE } from "@/core/window/lengths";
import { count } from "../frame/amounts";
import { CodeBlock } from "../frame/codeBlock";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { useLatest } from "../query/instruments";
import { useNowBy, useSpan } from "../query/place";
import { useTimes } from "../query/times";

/** How far back the last points are looked for, ms. */
const BACK = 15 * MINUTE;
const GRAIN = 15_000;

function valueText({ value, count: events, sum }: LatestPoint, unit: string): string {
  if (value !== null) return formatValue(value, unit);
  if (events === null) return "no value any more";
  return `${count(events)} recorded${sum === null ? "" : `, ${formatValue(sum, unit)} in all`}`;
}

/** The points of the window, to be taken along. */
function TakeAlong({ name }: { name: string }) {
  const span = useSpan();
  if (!span) return null;
  const { from, to } = span;
  const href = (format: string) =>
    `/api/export?${new URLSearchParams({ metric: name, from: `${from}`, to: `${to}`, format })}`;
  return (
    <p className="mt-2 text-muted">
      Take all points of this window along:{" "}
      <a className="slot" href={href("otlp")} download>
        OTLP JSON lines
      </a>{" "}
      <a className="slot" href={href("openmetrics")} download>
        OpenMetrics text
      </a>
    </p>
  );
}

/** The last point of each series, as a table or as OpenMetrics text. */
export function LatestPoints({ name, asText }: { name: string; asText: boolean }) {
  return (
    <>
      <Points name={name} asText={asText} />
      <TakeAlong name={name} />
    </>
  );
}

function Points({ name, asText }: { name: string; asText: boolean }) {
  const { moment } = useTimes();
  const now = useNowBy(GRAIN);
  const { data, error } = useLatest(name, now > 0 ? { from: now - BACK, to: now + GRAIN } : null);
  if (error && !data) return <ProblemNote error={error} />;
  if (!data) return <div role="status" aria-label="Reading…" className="plate skeleton-bar h-32" />;
  if (data.points.length === 0)
    return (
      <div className="plate p-3">
        <h2 className="font-bold">No points in the last quarter of an hour</h2>
        <p className="text-muted">The chart above says when its last point came, if the window reaches that far.</p>
      </div>
    );
  if (asText) return <CodeBlock title="OpenMetrics text, as another program would read it" text={data.exposition} />;
  return (
    <section aria-label="Last points" className="plate px-3 py-2">
      <Table heads={["at", { name: "value", right: true }, "attributes", "from"]}>
        {data.points.map((point) => (
          <Row key={`${JSON.stringify(point.attributes)} ${JSON.stringify(point.resource)}`}>
            <td className="num py-0.5 pr-4 whitespace-nowrap">{moment(point.at)}</td>
            <td className="num pr-4 text-right whitespace-nowrap">{valueText(point, data.unit)}</td>
            <td className="num pr-4 text-[12px] break-all">
              {Object.entries(point.attributes)
                .map(([key, value]) => `${key}=${value}`)
                .join(" ") || "—"}
            </td>
            <td className="num text-[12px] break-all text-muted">
              {[
                point.resource["service.name"],
                point.resource["service.version"],
                point.resource["service.instance.id"],
              ]
                .filter(Boolean)
                .join(" ")}
            </td>
          </Row>
        ))}
      </Table>
      {data.series > data.points.length && (
        <p className="text-muted">
          the newest {data.points.length} of {count(data.series)} series
        </p>
      )}
    </section>
  );
}
