import { z } from "zod";
import { duration } from "@/core/api/duration";
import { MAX_TIME } from "@/core/metric/pointLimits";
import { isZone } from "@/core/window/steps";

/** As long as hours are kept by default, and room for a rail around it. */
const LONGEST_DAYS = 800;

/** A moment: RFC 3339 or Unix milliseconds. */
const moment = z.string().transform((text, context) => {
  const time = /^-?\d+(\.\d+)?$/.test(text) ? Number(text) : Date.parse(text);
  if (time >= 0 && time <= MAX_TIME) return time;
  const message = Number.isFinite(time)
    ? "a time from 1970 to the year 9999 is expected (Unix milliseconds)"
    : "a time in RFC 3339 form or Unix milliseconds is expected";
  context.addIssue({ code: "custom", message });
  return z.NEVER;
});

const zone = z.string().refine(isZone, "the name of a time zone is expected, such as Europe/Berlin").default("UTC");

function orderly({ from, to }: { from: number; to: number }, context: z.RefinementCtx): void {
  if (!(to > from)) context.addIssue({ code: "custom", path: ["to"], message: "the window must end after it begins" });
  else if (to - from > LONGEST_DAYS * 86400_000)
    context.addIssue({ code: "custom", path: ["from"], message: `a window spans at most ${LONGEST_DAYS} days` });
}

const window = { from: moment, to: moment };
const place = { service: z.string().max(300), environment: z.string().max(300).default("") };

export const spanQuery = z.object(window).superRefine(orderly);
export const placeQuery = z.object(place);

const metricName = z.string().min(1).max(255);
export const latestQuery = z.object({ metric: metricName, ...window }).superRefine(orderly);
export const adviceQuery = z
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
    count: z.coerce.number().int().min(1).max(100).default(12),
  })
  .superRefine(orderly);

/** What to write out: see {@link PointsJob}. */
export const exportQuery = z
  .object({
    format: z.enum(["otlp", "openmetrics"], "the formats are otlp and openmetrics").default("otlp"),
    metrics: z.array(metricName).min(1, "a metric is expected: metric=…").max(100),
    ...window,
    where: z
      .array(
        z.string().transform((text, context) => {
          const at = text.indexOf("=");
          if (at > 0) return { name: text.slice(0, at), value: text.slice(at + 1) };
          context.addIssue({ code: "custom", message: "an attribute is written as name=value" });
          return z.NEVER;
        }),
      )
      .max(20),
  })
  .superRefine(orderly);

export const withdrawal = z.object({
  name: metricName,
  note: z.string().trim().min(1, "say in a few words why").max(500),
  who: z.string().trim().min(1, "a name is expected").max(100),
});

/** A number in a path; null where it is none. */
export function idOf(text: string): number | null {
  return /^\d{1,9}$/.test(text) ? Number(text) : null;
}

export const readingQuery = z
  .object({ text: z.string(), ...window, every: duration.optional(), zone })
  .superRefine(orderly);
export const ladderQuery = z
  .object({ ...place, metric: z.string().max(300).default(""), ...window, zone })
  .superRefine(orderly);
export const railQuery = z.object({ ...place, ...window }).superRefine(orderly);

const MOST_TOGETHER = 60;
/** Times and durations may also be plain numbers in a body. */
const written = (value: unknown) => (typeof value === "number" ? String(value) : value);

export const readingsBody = z
  .object({
    readings: z
      .array(
        z
          .object({ text: z.string(), every: z.preprocess(written, duration).nullish() })
          .transform(({ text, every }) => ({
            text,
            every: every ?? null,
          })),
      )
      .min(1)
      .max(MOST_TOGETHER),
    from: z.preprocess(written, moment),
    to: z.preprocess(written, moment),
    zone,
    picks: z.record(z.string(), z.array(z.string())).default({}),
  })
  .superRefine(orderly);

/** Values chosen for picks: `pick.<name>=` parameters, each as often as there are values. */
export function picksOf(parameters: URLSearchParams): Record<string, string[]> {
  const picks: Record<string, string[]> = {};
  for (const [key, value] of parameters) {
    if (!key.startsWith("pick.")) continue;
    const name = key.slice(5);
    picks[name] = [...(Object.hasOwn(picks, name) ? picks[name] : []), value];
  }
  return picks;
}
