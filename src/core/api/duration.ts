import { z } from "zod";
import { DURATIONS } from "../window/lengths";

/** A duration such as 30s, 5m, 1h; ms where it has no unit. */
export const duration = z.string().transform((text, context) => {
  const match = /^(\d+(?:\.\d+)?)\s*([a-z]*)$/.exec(text);
  const factor = match
    ? match[2] === ""
      ? 1
      : Object.hasOwn(DURATIONS, match[2])
        ? DURATIONS[match[2]]
        : undefined
    : undefined;
  if (match && factor !== undefined && Number(match[1]) > 0) return Number(match[1]) * factor;
  context.addIssue({ code: "custom", message: "a duration such as 30s, 5m or 1h is expected" });
  return z.NEVER;
});
