"use client";

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { ComparisonAnswer, SideAnswer } from "@/core/api/comparison";
import type { HeldValue } from "@/core/api/held";
import { metricText, quoteText, serviceTests, valueTest } from "@/core/reading/language/quote";
import { inASentence } from "@/core/release/says";
import type { ServicePlace } from "@/core/service/sections";
import { useCarried } from "../frame/navigation";
import { ProblemNote } from "../frame/problemNote";
import { TakingLong } from "../frame/takingLong";
import { ask } from "../query/api";
import { asking } from "../query/asking";
import { useSpanQuery } from "../query/awaited";
import { byTheMinute } from "../query/compared";
import { useMay } from "../query/me";
import { useSpan, useZone } from "../query/place";
import { comparisonQuestion, keptComparisonQuestion, releasesQuestion } from "../query/questions";
import { useTimes } from "../query/times";
import { useOverview, useService } from "../query/use";
import { ServiceSlot } from "../sentence/serviceSlot";
import { Slot } from "../sentence/slot";
import { useCompared } from "./address";
import { Causes } from "./causes";
import { Courses } from "./courses";
import { Figures } from "./figures";
import { Report } from "./report";
import { Shape } from "./shape";
import { Held, Nothing, Skeleton, Warning } from "./states";
import { Values } from "./values";

/** Two releases held against each other: figures with verdicts, and what explains the difference. */

/** The address at which what is compared is read on, by release. */
function readOnAddress(answer: ComparisonAnswer, carried: string): string {
  const { metric, candidate, baseline, hold } = answer;
  const tests = hold.map(({ attribute, value }) => valueTest(attribute, value));
  const releases = [candidate, baseline!].map(({ release }) => quoteText(release)).join(", ");
  const where = [serviceTests(candidate.service, candidate.environment), `release is one of (${releases})`, ...tests];
  const parameters = new URLSearchParams(carried);
  parameters.set("reading", `p95 of ${metricText(metric ?? "")} where ${where.join(" and ")} by release`);
  return `/scratch?${parameters}`;
}

/** Before a service in another place, among what a release can be held against; releases do not begin so. */
const ELSEWHERE = "\u0000";

/** What the baseline is called: with its service and environment where these are others. */
function baselineName(baseline: SideAnswer | null, place: ServicePlace): string | null {
  if (!baseline) return null;
  const { service, environment, release } = baseline;
  return [
    ...(service === place.service ? [] : [service]),
    release,
    ...(environment === place.environment ? [] : [`in ${environment || "no environment"}`]),
  ].join(" ");
}

export function ComparePage() {
  const { moment } = useTimes();
  const overview = useOverview();
  const place = useService();
  const zone = useZone();
  const span = useSpan();
  const carried = useCarried();
  const asked = useCompared();
  const mayKeep = useMay("edit");
  const { data: known } = useQuery({ ...asking(releasesQuestion(place!)), enabled: place !== null });
  const releases = useMemo(() => (known?.releases ?? []).filter(({ release }) => release !== ""), [known]);
  const release = asked.release ?? releases.at(0)?.release ?? null;
  const minute = span && byTheMinute(span);
  const about = {
    release: release ?? "",
    against: asked.against ?? "",
    againstService: asked.againstService ?? "",
    againstEnvironment: asked.againstEnvironment ?? undefined,
    metric: asked.metric ?? "",
    hold: asked.hold,
    by: asked.by ?? "",
  };
  const live = useSpanQuery<ComparisonAnswer>([place, about], minute, (span) => ({
    ...asking(comparisonQuestion(place!, about, span!, zone)),
    enabled: place !== null && span !== null && release !== null && asked.kept === null,
    placeholderData: keepPreviousData,
  }));
  const kept = useQuery({ ...asking(keptComparisonQuestion(asked.kept ?? "")), enabled: asked.kept !== null });
  const answer = asked.kept === null ? live.data : kept.data?.comparison;
  const error = asked.kept === null ? live.error : kept.error;
  const options = releases.map((one) => ({ value: one.release, note: `since ${moment(one.firstAt).slice(0, -3)}` }));
  const elsewhere = (overview.data?.services ?? [])
    .filter((one) => place !== null && (one.service !== place.service || one.environment !== place.environment))
    .map((one) => ({
      value: ELSEWHERE + JSON.stringify([one.service, one.environment]),
      label: one.service,
      note: one.environment || "no environment",
    }));
  const holdAgainst = (value: string) => {
    if (!value.startsWith(ELSEWHERE))
      return void asked.setState({
        against: value === "" ? null : value,
        againstService: null,
        againstEnvironment: null,
      });
    const [againstService, againstEnvironment] = JSON.parse(value.slice(ELSEWHERE.length)) as [string, string];
    void asked.setState({ against: null, againstService, againstEnvironment });
  };
  const holdTo = (where: HeldValue[]) => asked.setHold([...asked.hold, ...where]);
  const keep = async () => {
    const { service, environment } = place!;
    const body = { service, environment, ...about, ...minute!, zone };
    const { id } = await ask("POST /api/comparisons", { body });
    return `${window.location.origin}/releases/two?kept=${id}`;
  };
  return (
    <div>
      <header className="mb-3">
        <h1 className="text-[20px] leading-tight font-bold wrap-anywhere">
          {asked.kept !== null && answer ? (
            <>
              {answer.candidate.service} <span className="num text-primary">{answer.candidate.release}</span> against{" "}
              <span className="num">{answer.baseline?.release ?? "nothing"}</span>
            </>
          ) : place ? (
            <>
              <ServiceSlot />{" "}
              <Slot
                name="release"
                options={options}
                onChoose={(value) => void asked.setState({ release: value, kept: null })}
              >
                <span className="num text-primary">{release ?? "…"}</span>
              </Slot>{" "}
              against{" "}
              <Slot
                name="what it is held against"
                options={[
                  { value: "", label: "as the team chose" },
                  ...options.map((one) => (one.value === release ? { ...one, note: "itself, before" } : one)),
                  ...elsewhere,
                ]}
                onChoose={holdAgainst}
              >
                <span className="num">{baselineName(answer?.baseline ?? null, place) ?? asked.against ?? "…"}</span>
              </Slot>
              <span className="text-[15px] font-normal">
                {place.environment !== "" && ` in ${place.environment}`}
                <Held hold={asked.hold} onChange={asked.setHold} />
              </span>
            </>
          ) : (
            <span className="skeleton-bar inline-block h-6 w-64" />
          )}
        </h1>
        {answer?.found && answer.baseline && (
          <p className="mt-1">
            {inASentence(answer.candidate.release, answer.baseline.release, answer.found, answer.unit)}.
          </p>
        )}
        {asked.kept !== null && kept.data && (
          <p className="mt-1 text-muted">
            Figures as {kept.data.who} kept them on {moment(kept.data.keptAt)}: from{" "}
            {moment(kept.data.comparison.candidate.from)} to {moment(kept.data.comparison.candidate.to)}.
          </p>
        )}
        {answer?.found && (
          <div className="mt-1">
            <Report answer={answer} onKeep={mayKeep && asked.kept === null ? keep : null} />
          </div>
        )}
      </header>
      {error && <ProblemNote error={error} />}
      <TakingLong
        what="Comparing the minutes of both"
        active={!error && asked.kept === null && (!answer || live.isPlaceholderData)}
      />
      {!answer && !error && <Skeleton />}
      {answer && !answer.found && <Nothing answer={answer} />}
      {answer?.found && (
        <div className={`space-y-3 ${live.isPlaceholderData && asked.kept === null ? "opacity-60" : ""}`}>
          <Warning answer={answer} />
          <Figures answer={answer} />
          <Causes answer={answer} onHold={holdTo} readOn={readOnAddress(answer, carried)} />
          <div className="grid grid-cols-1 gap-3 lg:grid-cols-[3fr_2fr]">
            <Shape answer={answer} />
            <Courses answer={answer} />
          </div>
          <Values answer={answer} onBy={(by) => void asked.setState({ by })} onHold={holdTo} />
        </div>
      )}
    </div>
  );
}
