import { useState } from "react";
import { GROWTH_SPANS, type Growth, type NowAndBefore } from "@/core/api/pipeline";
import type { DryRun, MetricDryRun } from "@/core/draft/dryRun";
import { type Multiplier, type Origin, remedyFor } from "@/core/draft/origins";
import type { StepConfig } from "@/core/pipeline/steps";
import { count } from "../frame/amounts";
import { shortName } from "../frame/names";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { useGrowth, usePrice } from "../query/pipeline";
import { Slot } from "../sentence/slot";
import { type Costly, costOf, money } from "./costLine";

/** Where the series come from: which metrics have most, what made them grow, and steps that would take them away. */

const SHOWN = 6;
/** Characters of a service or release that a line has room for. */
const MAX_NAME = 24;
const MAX_OFFERS = 2;
/** Below this part of the series, taking an attribute away is not worth a thought. */
const WORTH = 0.5;

const [HOUR, DAY, WEEK] = GROWTH_SPANS;
const SPAN_WORDS: Record<string, string> = { [HOUR]: "an hour", [DAY]: "a day", [WEEK]: "a week" };

function grown({ now, before }: NowAndBefore): string {
  if (now === before) return "as many";
  return now > before ? `+${count(now - before)}` : `−${count(before - now)}`;
}

/** Releases that brought most series, and the values that no series had before. */
function BroughtBy({ of }: { of: Growth | undefined }) {
  if (!of) return <span className="text-muted">—</span>;
  const brought = of.releases.filter(({ now, before }) => now > before);
  return (
    <>
      {brought.map((one) => (
        <span
          key={`${one.service} ${one.release}`}
          className="block max-w-96 truncate"
          title={`${one.service} ${one.release}`}
        >
          {shortName(one.service, MAX_NAME)}{" "}
          <span className="num">{one.release ? shortName(one.release, MAX_NAME) : "without a release"}</span>{" "}
          <span className="num text-primary">{grown(one)}</span>
        </span>
      ))}
      {of.attributes.map(({ name, values, examples }) => (
        <span key={name} className="block text-[12px] text-muted">
          <span className="num">
            {count(values)} {values === 1 ? "value" : "values"} of {name}
          </span>{" "}
          not seen before: <span className="num wrap-anywhere">{examples.map(({ value }) => value).join(", ")}</span>
        </span>
      ))}
      {brought.length === 0 && of.attributes.length === 0 && <span className="text-muted">nothing new</span>}
    </>
  );
}

interface Offer {
  origin: Origin;
  freeId: (type: StepConfig["type"]) => string;
  onStep: (step: StepConfig) => void;
}

function Remedy({ origin, multiplier, freeId, onStep }: Offer & { multiplier: Multiplier }) {
  const { type } = remedyFor(origin, multiplier, "trial");
  const step = remedyFor(origin, multiplier, freeId(type));
  const { names, values, whenFolded, without } = multiplier;
  const name = names.join(" and ");
  const left = type === "fold" ? whenFolded : without;
  return (
    <span className="block">
      <span className="num">{name}</span> <span className="text-muted">({count(values)} values)</span>{" "}
      <button
        type="button"
        className="slot whitespace-nowrap"
        aria-label={`${type} ${name} of ${origin.metric}: ${left} series are left`}
        onClick={() => onStep(step)}
      >
        {type} {names.length > 1 ? "them" : "it"}: {count(left)} left
      </button>
    </span>
  );
}

function Remedies(offer: Offer) {
  const { origin } = offer;
  const worth = origin.multipliers.filter(
    ({ without, whenFolded }) => Math.min(without, whenFolded) <= WORTH * origin.series,
  );
  if (worth.length === 0) return <span className="text-muted">no attribute stands out</span>;
  return worth
    .slice(0, MAX_OFFERS)
    .map((multiplier) => <Remedy key={multiplier.names[0]} {...offer} multiplier={multiplier} />);
}

export function OriginsPanel({
  dryRun,
  monthly,
  freeId,
  onStep,
}: {
  dryRun: DryRun;
  /** What of a metric was tried, as it comes in a month. */
  monthly: (amounts: MetricDryRun["after"]) => Costly;
} & Omit<Offer, "origin">) {
  const [back, setBack] = useState<number>(DAY);
  const growth = useGrowth(back);
  const { price } = usePrice();
  const worth = dryRun.origins.filter(({ series, multipliers }) => series > 1 && multipliers.length > 0);
  if (worth.length === 0) return null;
  const cost = (metric: string) => {
    const amounts = dryRun.live.metrics.find(({ name }) => name === metric)?.after;
    return amounts ? money(costOf(monthly(amounts), price), price) : "—";
  };
  return (
    <section aria-label="Where the series come from" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">
        Where the series come from,{" "}
        <span className="font-normal">
          and what is new against{" "}
          <Slot
            name="how far back"
            options={GROWTH_SPANS.map((value) => ({ value: String(value), label: SPAN_WORDS[value] }))}
            onChoose={(value) => setBack(Number(value))}
          >
            {SPAN_WORDS[back]}
          </Slot>{" "}
          ago
        </span>
      </h2>
      {growth.error && !growth.data && <ProblemNote error={growth.error} />}
      <Table
        heads={[
          "metric",
          { name: "series", right: true },
          { name: "a month", right: true },
          { name: "new", right: true },
          { name: "brought by", wide: true },
          "multiplied by",
        ]}
      >
        {worth.slice(0, SHOWN).map((origin) => {
          const own = growth.data?.metrics.find(({ metric }) => metric === origin.metric);
          return (
            <Row key={origin.metric}>
              <th scope="row" className="num min-w-64 py-1 pr-4 text-left font-semibold wrap-anywhere">
                {origin.metric}
              </th>
              <td className="num pr-4 text-right">{count(own?.now ?? origin.series)}</td>
              <td className="num pr-4 text-right whitespace-nowrap">{cost(origin.metric)}</td>
              <td className="num pr-4 text-right whitespace-nowrap">{own ? grown(own) : ""}</td>
              <td className="pr-4">
                <BroughtBy of={own} />
              </td>
              <td className="whitespace-nowrap">
                <Remedies origin={origin} freeId={freeId} onStep={onStep} />
              </td>
            </Row>
          );
        })}
      </Table>
    </section>
  );
}
