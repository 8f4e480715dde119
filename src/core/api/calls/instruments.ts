import { z } from "zod";
import { metricName, orderly, window, zone } from "../asked";
import { call } from "../call";
import {
  adviceAnswer,
  attributeEntry,
  cataloguePart,
  cataloguePartQuery,
  findingEntry,
  instrumentAnswer,
  latestAnswer,
  metricEntry,
} from "../instruments";

/** Metrics: what there are, and what one is like. */

const METRIC = "http.server.request.duration";
const SPAN = { from: 1764000000000, to: 1764003600000 };

export const getMetrics = call({
  method: "GET",
  path: "/api/catalogue",
  counts: true,
  does: "Lists the metrics there are, in short.",
  answer: z.object({ metrics: z.array(metricEntry) }),
});

export const getAttributes = call({
  method: "GET",
  path: "/api/catalogue/attributes",
  counts: true,
  does: "Lists the attributes of a metric with values.",
  query: z.object({ metric: z.string().max(300) }),
  answer: z.object({ attributes: z.array(attributeEntry) }),
  example: { query: { metric: METRIC } },
});

export const getInstruments = call({
  method: "GET",
  path: "/api/instruments",
  counts: true,
  does: "Lists instruments by name, a part at a time: what arrived, and what was defined.",
  query: cataloguePartQuery,
  answer: cataloguePart,
  example: { query: { rows: 500 } },
});

export const findByValue = call({
  method: "GET",
  path: "/api/instruments/having",
  does: "Names the metrics that have an attribute value with a text in it.",
  query: z.object({ value: z.string().transform((text) => text.slice(0, 300)) }),
  answer: z.object({ found: z.array(z.object({ name: z.string(), found: z.string() })) }),
  example: { query: { value: "checkout" } },
});

export const getInstrument = call({
  method: "GET",
  path: "/api/instruments/one",
  counts: true,
  does: "Tells everything about an instrument.",
  query: z.object({ metric: metricName }),
  answer: instrumentAnswer,
  problems: { 404: "Nothing of that name has arrived, and no contract is about it." },
  example: { query: { metric: METRIC } },
});

export const getLatest = call({
  method: "GET",
  path: "/api/instruments/latest",
  does: "Gives the last point of each series of a metric, as a table and as OpenMetrics text.",
  query: z.object({ metric: metricName, ...window }).superRefine(orderly),
  answer: latestAnswer,
  example: { query: { metric: METRIC, ...SPAN } },
});

export const getAdvice = call({
  method: "GET",
  path: "/api/instruments/advice",
  does: "Advises on the bucket bounds of a histogram from what was observed.",
  query: z
    .object({
      metric: metricName,
      ...window,
      zone,
      percents: z
        .string()
        .default("50,95,99")
        .transform((text, context) => {
          const percents = text.split(",").map(Number);
          if (percents.length <= 8 && percents.every((percent) => percent > 0 && percent < 100)) return percents;
          context.addIssue({ code: "custom", message: "up to eight percentiles such as 50,95,99 are expected" });
          return z.NEVER;
        }),
      count: z.coerce.number<string | number>().int().min(1).max(100).default(12),
    })
    .superRefine(orderly),
  answer: adviceAnswer,
  example: { query: { metric: METRIC, ...SPAN, percents: "50,95,99", count: 12 } },
});

export const getFindings = call({
  method: "GET",
  path: "/api/findings",
  counts: true,
  does: "Lists what does not look as it should, of all metrics.",
  answer: z.object({ findings: z.array(findingEntry) }),
});
