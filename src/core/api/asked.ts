import { z } from "zod";
import { MAX_TIME } from "../metric/pointLimits";
import { DAY } from "../window/lengths";
import { isZone } from "../window/steps";
import { duration } from "./duration";

/** Parts of what calls ask for: moments, windows, places, names. */

/** As long as hours are kept by default, and room for a rail around it. */
const LONGEST_DAYS = 800;

/** A moment: RFC 3339 or Unix milliseconds. */
export const moment = z
  .union([z.string(), z.number()], "a time in RFC 3339 form or Unix milliseconds is expected")
  .transform((given, context) => {
    const text = String(given);
    const time = /^-?\d+(\.\d+)?$/.test(text) ? Number(text) : Date.parse(text);
    if (time >= 0 && time <= MAX_TIME) return Math.round(time);
    const message = Number.isFinite(time)
      ? "a time from 1970 to the year 9999 is expected (Unix milliseconds)"
      : "a time in RFC 3339 form or Unix milliseconds is expected";
    context.addIssue({ code: "custom", message });
    return z.NEVER;
  })
  .meta({ description: "A moment: RFC 3339 or Unix milliseconds.", examples: [1764000000000] });

/** A length of time: a number with a unit, or milliseconds. */
export const length = z
  .union([z.string(), z.number()], "a duration such as 30s, 5m or 1h is expected")
  .transform(String)
  .pipe(duration)
  .meta({ description: "A length of time such as 30s, 5m or 1h; milliseconds without a unit.", examples: ["1m"] });

export const zone = z
  .string()
  .refine(isZone, "the name of a time zone is expected, such as Europe/Berlin")
  .default("UTC")
  .meta({ examples: ["UTC"] });

export const window = { from: moment, to: moment };
export const place = { service: z.string().max(300), environment: z.string().max(300).default("") };
export const metricName = z.string().min(1).max(255);

/** Refuses a window that ends before it begins, or is too long. */
export function orderly({ from, to }: { from: number; to: number }, context: z.RefinementCtx): void {
  if (!(to > from)) context.addIssue({ code: "custom", path: ["to"], message: "the window must end after it begins" });
  else if (to - from > LONGEST_DAYS * DAY)
    context.addIssue({ code: "custom", path: ["from"], message: `a window spans at most ${LONGEST_DAYS} days` });
}

/** The id in a path. */
export const withId = z.object({ id: z.coerce.number().int().min(1).max(999_999_999) });
/** The id of something new. */
export const newId = z.object({ id: z.number() });
