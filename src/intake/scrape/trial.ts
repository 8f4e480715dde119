import type { BlockList } from "node:net";
import type { TrialAnswer, TrialStep } from "@/core/api/targets";
import { offerOf } from "@/core/openmetrics/offer";
import { failureOf, ScrapeError } from "@/core/scrape/failure";
import { familiesOf } from "./families";
import { fetchExposition, type Question } from "./fetch";

/** Tries a target without keeping anything: what it offers, or what is wrong. */
export async function tryTarget(question: Question, allowed: BlockList, seriesLimit: number): Promise<TrialAnswer> {
  const began = performance.now();
  const steps: TrialStep[] = [];
  const step = (what: TrialStep["what"], said: string) =>
    steps.push({ what, said, at: Math.round(performance.now() - began) });
  try {
    const exposition = await fetchExposition(question, allowed, step);
    const { families, samples } = familiesOf(exposition);
    const offer = offerOf(families);
    const series = offer.reduce((sum, one) => sum + one.series, 0);
    step(
      "read",
      `${samples.toLocaleString("en-GB")} samples of ${offer.length} metrics in ${series.toLocaleString("en-GB")} series`,
    );
    const most = offer.find((one) => one.series > seriesLimit);
    const failure = most
      ? failureOf(
          "too-many-series",
          `${most.name} has ${most.series} series; a metric may have ${seriesLimit} of one service`,
        )
      : null;
    return { steps, failure, offer, samples, series };
  } catch (error) {
    if (!(error instanceof ScrapeError)) throw error;
    return { steps, failure: failureOf(error.code, error.message), offer: null, samples: 0, series: 0 };
  }
}
