import { bestForLadder } from "../../service/callMetrics";
import { metricText } from "./quote";

/** The questions of the trade, as readings of what has arrived: something to begin with. */

/** What a question may be asked of. */
export interface Askable {
  name: string;
  kind: string;
  unit: string;
  monotonic: boolean;
}

export interface WorkedExample {
  question: string;
  reading: string;
}

const isHistogram = ({ kind }: Askable) => kind === "histogram" || kind === "exponential";
const isCounter = ({ kind, monotonic }: Askable) => kind === "sum" && monotonic;
const isLevel = ({ kind, monotonic }: Askable) => kind === "gauge" || (kind === "sum" && !monotonic);

/** What counts as slow in the example: half a second, in the metric's unit. */
function slowBound(unit: string): string | null {
  return unit === "s" || unit === "ms" ? "500 ms" : null;
}

/** A worked example for each question that the metrics can answer; our own metrics are the last to be asked. */
export function workedExamples(metrics: readonly Askable[]): WorkedExample[] {
  const own = (one: Askable) => Number(one.name.startsWith("tin."));
  const sorted = [...metrics].sort((a, b) => own(a) - own(b));
  const found: WorkedExample[] = [];
  const calls = bestForLadder(sorted.filter(isHistogram)).at(0);
  if (calls) {
    const of = metricText(calls.name);
    const bound = slowBound(calls.unit);
    found.push(
      { question: "How long do calls take, release by release?", reading: `p95 of ${of} by release` },
      { question: "How many calls come in each second?", reading: `rate of ${of} by service` },
      { question: "Which share of them fails?", reading: `share of ${of} that error.type is there by release` },
    );
    if (bound) found.push({ question: "Which share is too slow?", reading: `share over ${bound} of ${of} by release` });
    found.push(
      { question: "Which routes are the slowest?", reading: `p95 of ${of} by http.route top 5` },
      { question: "How does it compare with a week ago?", reading: `rate of ${of} / rate of ${of} shifted 1w` },
    );
  }
  const counter = sorted.find(isCounter);
  if (counter)
    found.push({ question: "How often does it happen?", reading: `rate of ${metricText(counter.name)} by release` });
  const memory = sorted.find((one) => isLevel(one) && one.unit === "By");
  if (memory)
    found.push({
      question: "How much memory is taken at most?",
      reading: `max of ${metricText(memory.name)} by service`,
    });
  const level = sorted.find((one) => isLevel(one) && one !== memory);
  if (level)
    found.push({ question: "How high does it stand?", reading: `last of ${metricText(level.name)} by service` });
  const summary = sorted.find(({ kind }) => kind === "summary");
  if (summary)
    found.push({
      question: "How long does it take on average?",
      reading: `mean of ${metricText(summary.name)} by service`,
    });
  return found;
}
