import { z } from "zod";
import { attribute, boundsPart, metricName, seconds } from "../parts";
import { isSpan } from "../records";
import { defineStep } from "./definition";
import { names, number, numbers, text } from "./sentence";

/** Where durations are told apart, s (semantic conventions, "http.server.request.duration"). */
const DURATION_BOUNDS = [0.005, 0.01, 0.025, 0.05, 0.075, 0.1, 0.25, 0.5, 0.75, 1, 2.5, 5, 7.5, 10];

/** Metrics from spans: how many, how many failed, how long they took. */
export const spans = defineStep({
  type: "spans",
  lanes: ["traces"],
  settings: {
    /** What the metrics' names begin with. */
    to: metricName.default("span"),
    attributes: z.array(attribute).max(50).default(["span.name", "span.kind"]),
    bounds: boundsPart.default(DURATION_BOUNDS),
    every: seconds.default(10),
  },
  name: "metrics from spans",
  does: "how many, how many failed, how long they took",
  sentence: () => [
    "count them into ",
    text("to", "beginning of the metrics' names"),
    ".count, .errors and .duration by ",
    names("attributes", "attributes"),
    ", with bounds ",
    numbers("bounds", "bounds"),
    " s, every ",
    number("every", "window in seconds"),
    " s",
  ],
  documented: "`….count`, `….errors`, `….duration` by chosen attributes",
  counts:
    ({ to }) =>
    (one, count) => {
      const { record } = one;
      if (!isSpan(record)) return;
      count.one(one, `${to}.count`, "{span}", "Spans that ended");
      if (record.status === "error") count.one(one, `${to}.errors`, "{span}", "Spans that failed");
      count.measure(one, `${to}.duration`, "s", "How long spans took", record.took / 1e9);
    },
});
