import type { StepConfig } from "@/core/pipeline/metricSteps";
import { type Multiplier, type Origin, remedyFor } from "@/core/pipeline/origins";
import { Row, Table } from "../frame/table";
import { count } from "../store/amounts";

/** Where the series come from, and a step that would take them away. */
export function OriginsPanel({
  origins,
  freeId,
  onStep,
}: {
  origins: readonly Origin[];
  freeId: (type: StepConfig["type"]) => string;
  onStep: (step: StepConfig) => void;
}) {
  const worth = origins.filter(({ series, multipliers }) => series > 1 && multipliers.length > 0);
  if (worth.length === 0) return null;
  const offer = (origin: Origin, multiplier: Multiplier) => {
    const { type } = remedyFor(origin, multiplier, "trial");
    const step = remedyFor(origin, multiplier, freeId(type));
    const left = type === "fold" ? multiplier.whenFolded : multiplier.without;
    return (
      <button
        type="button"
        className="slot"
        aria-label={`${type} ${multiplier.name} of ${origin.metric}: ${left} series are left`}
        onClick={() => onStep(step)}
      >
        {type} it: {count(left)} left
      </button>
    );
  };
  return (
    <section aria-label="Where the series come from" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">Where the series come from</h2>
      <Table
        heads={[
          "metric",
          { name: "series", right: true },
          "from releases",
          "multiplied by",
          { name: "values", right: true },
          { name: "draft", wide: true },
        ]}
      >
        {worth.slice(0, 6).map((origin) => {
          const [multiplier] = origin.multipliers;
          return (
            <Row key={origin.metric}>
              <th scope="row" className="num py-1 pr-4 text-left font-semibold whitespace-nowrap">
                {origin.metric}
              </th>
              <td className="num pr-4 text-right">{count(origin.series)}</td>
              <td className="num pr-4 text-[12.5px] whitespace-nowrap">
                {origin.releases.map(({ release, series }) => (
                  <span key={release} className="block">
                    {release || "none"} <span className="text-muted">{count(series)}</span>
                  </span>
                ))}
              </td>
              <td className="pr-4">
                <span className="num">{multiplier.name}</span>
                <span className="num block text-[11.5px] break-all text-muted">{multiplier.examples.join(", ")}</span>
              </td>
              <td className="num pr-4 text-right">{count(multiplier.values)}</td>
              <td className="whitespace-nowrap">{offer(origin, multiplier)}</td>
            </Row>
          );
        })}
      </Table>
    </section>
  );
}
