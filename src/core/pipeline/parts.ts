import { z } from "zod";
import { predicate } from "../reading/language/conditions";
import { parseCondition } from "../reading/language/parse";
import { ReadingError } from "../reading/language/tree";
import { isPattern, isUnit } from "../schema/refinements";

/** What steps are made of. */

const condition = z
  .string()
  .max(2000)
  .default("")
  .superRefine((text, context) => {
    try {
      // A pattern that is not understood shows only when it is made ready.
      predicate(parseCondition(text));
    } catch (error) {
      const message = error instanceof ReadingError ? [error.message, error.hint] : [(error as Error).message];
      context.addIssue({ code: "custom", message: message.filter(Boolean).join("; ") });
    }
  });

export const attribute = z.string().trim().min(1, "an attribute is expected").max(255);
export const attributes = z.array(attribute).min(1, "at least one attribute is expected").max(50);
export const metricName = z.string().trim().min(1, "a metric is expected").max(255);
export const seconds = z.number().int().min(1, "at least a second").max(3600, "at most an hour");

/** How values of gauges that meet in one series and window become one. */
export const LEVEL_HOWS = ["sum", "mean", "min", "max", "last"] as const;
export type LevelHow = (typeof LEVEL_HOWS)[number];

export const pattern = z.string().min(1).max(500).superRefine(isPattern);

/** Ready patterns of values that are better folded. */
export const FOLDS = ["numbers", "uuids", "hex", "emails", "hosts", "paths"] as const;
export type Fold = (typeof FOLDS)[number];

/** A unit as UCUM writes it. */
export const unitText = z.string().superRefine(isUnit);

export const common = {
  /** What tells a step from others; it stays when the step is moved or changed. */
  id: z.string().regex(/^[a-z0-9-]{1,40}$/, "an id of small letters, digits and dashes is expected"),
  /** A step that is off is passed over. */
  on: z.boolean().default(true),
  where: condition,
};

/** Own patterns (RE2) and what stands in place of what they find. */
export const ownPatterns = z
  .array(z.object({ pattern, to: z.string().max(200) }))
  .max(20)
  .default([]);

/** A part of a whole. */
export const sharePart = z.number().min(0, "a share is not below 0").max(1, "a share is not above 1");

/** Bounds of buckets. */
export const boundsPart = z
  .array(z.number())
  .max(200)
  .refine((all) => all.every((bound, i) => i === 0 || bound > all[i - 1]), "bounds rise from one to the next");
