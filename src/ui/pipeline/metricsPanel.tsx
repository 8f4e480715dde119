import type { DryRun, MetricDryRun } from "@/core/draft/dryRun";
import { count } from "../frame/amounts";
import { Row, Table } from "../frame/table";

/** Metrics of which a draft makes something else than what runs. */

const SHOWN = 12;

/** What becomes of a metric that somebody may look at. */
function lossOf({ before, after, had, has }: MetricDryRun): string {
  if (after.points === 0 && before.points > 0) return "nothing arrives any more: its readings will be empty";
  const gone = had.filter((name) => !has.includes(name));
  const came = has.filter((name) => !had.includes(name));
  if (before.points === 0) return "new";
  const fewer = before.series - after.series;
  return [
    fewer > 0 && gone.length === 0 ? `${count(fewer)} fewer series: values that met are told apart no more` : "",
    gone.length > 0
      ? `without ${gone.join(", ")}: readings that need ${gone.length === 1 ? "it" : "them"} will be empty`
      : "",
    came.length > 0 ? `with ${came.join(", ")}` : "",
  ]
    .filter(Boolean)
    .join("; ");
}

export function MetricsPanel({ dryRun }: { dryRun: DryRun }) {
  const changed = dryRun.draft.metrics
    .map((drafted) => {
      const live = dryRun.live.metrics.find(({ name }) => name === drafted.name);
      return { ...drafted, before: live?.after ?? { series: 0, points: 0, bytes: 0 }, had: live?.has ?? [] };
    })
    .filter(
      ({ before, after, had, has }) =>
        before.series !== after.series || before.points !== after.points || had.join() !== has.join(),
    )
    .sort((a, b) => Math.abs(b.before.series - b.after.series) - Math.abs(a.before.series - a.after.series));
  return (
    <section aria-label="Metrics that change" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">What becomes of metrics</h2>
      {changed.length === 0 ? (
        <p className="text-muted">No metric changes against what runs.</p>
      ) : (
        <Table
          label="Metrics that change"
          heads={[
            "metric",
            { name: "series", right: true },
            { name: "points tried", right: true },
            { name: "what that does", wide: true },
          ]}
        >
          {changed.slice(0, SHOWN).map((one) => (
            <Row key={one.name}>
              <th scope="row" className="num py-1 pr-4 min-w-64 text-left font-semibold wrap-anywhere">
                {one.name}
              </th>
              <td className="num pr-4 text-right whitespace-nowrap">
                {count(one.before.series)} → {count(one.after.series)}
              </td>
              <td className="num pr-4 text-right whitespace-nowrap">
                {count(one.before.points)} → {count(one.after.points)}
              </td>
              <td>{lossOf(one)}</td>
            </Row>
          ))}
        </Table>
      )}
      {changed.length > SHOWN && <p className="text-muted">and {changed.length - SHOWN} more</p>}
    </section>
  );
}
