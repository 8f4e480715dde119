import { z } from "zod";
import type { Attributes } from "../metric/model";
import { faultText } from "../schema/fault";

/** One point as a person or a script writes it: a line of JSON, a row of a table, or the words of a command. */

const attributeValue = z.union([z.string(), z.number(), z.boolean()]);

const time = z.unknown().transform((given, context) => {
  const text = typeof given === "string" ? given : "";
  const ms = typeof given === "number" ? given : /^\d+(\.\d+)?$/.test(text) ? Number(text) : Date.parse(text);
  if (Number.isFinite(ms) && ms > 0) return ms;
  context.addIssue({
    code: "custom",
    message: `${JSON.stringify(given)} is no time; Unix milliseconds or RFC 3339 are`,
  });
  return z.NEVER;
});

export const HAND_KINDS = ["counter", "gauge", "histogram"] as const;

/** A point of this moment where `time` (Unix ms) is left out. Of a histogram, `value` may be several measurements. */
export const handPoint = z
  .object({
    name: z.string("a name is expected, such as loan.reserved").min(1, "a name is expected, such as loan.reserved"),
    kind: z.enum(HAND_KINDS, `a kind is expected: ${HAND_KINDS.join(", ")}`),
    value: z.union([z.number(), z.array(z.number()).min(1)], "a value is expected, a number"),
    unit: z.string().default(""),
    attributes: z.record(z.string().min(1, "an attribute needs a name"), attributeValue).default({}),
    time: time.optional(),
  })
  .superRefine(({ kind, value }, context) => {
    if (kind !== "histogram" && Array.isArray(value))
      context.addIssue({ code: "custom", path: ["value"], message: `a ${kind} has one value` });
    if (kind === "counter" && !Array.isArray(value) && value < 0)
      context.addIssue({ code: "custom", path: ["value"], message: "a counter never falls; a gauge may" });
  });
export type HandPoint = z.infer<typeof handPoint>;

/** What is taken where a line does not say it. */
export type Defaults = Partial<Pick<HandPoint, "name" | "kind" | "unit" | "attributes">>;

/** A line that is no point; the message says why. */
export class HandPointError extends Error {
  override name = "HandPointError";
}

function checked(given: Record<string, unknown>, defaults: Defaults): HandPoint {
  const { attributes, ...own } = given;
  const parsed = handPoint.safeParse({
    ...defaults,
    ...own,
    attributes:
      typeof attributes === "object" && attributes !== null
        ? { ...defaults.attributes, ...attributes }
        : (attributes ?? defaults.attributes),
  });
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  const place = issue.path.join(".");
  const fault = faultText(issue.message);
  throw new HandPointError(place === "" ? fault : `${place}: ${fault}`);
}

/** A point from a line of JSON. @throws HandPointError */
export function pointFromJson(line: string, defaults: Defaults): HandPoint {
  let value: unknown;
  try {
    value = JSON.parse(line);
  } catch (error) {
    throw new HandPointError(`not JSON: ${(error as Error).message}`);
  }
  if (typeof value !== "object" || value === null || Array.isArray(value))
    throw new HandPointError('an object is expected, such as {"name":"loan.reserved","kind":"counter","value":1}');
  return checked(value as Record<string, unknown>, defaults);
}

const COLUMNS = new Set(["name", "kind", "value", "unit", "time"]);

/** The number in a text. @throws HandPointError */
export function numberOf(text: string): number {
  const value = text.trim() === "" ? Number.NaN : Number(text);
  if (!Number.isNaN(value)) return value;
  throw new HandPointError(`value: "${text}" is no number`);
}

/** A point from a row of a table: the columns name, kind, value, unit and time; all others are attributes. */
export function pointFromRow(row: Readonly<Record<string, string>>, defaults: Defaults): HandPoint {
  const attributes: Attributes = {};
  const own: Record<string, unknown> = {};
  for (const [column, text] of Object.entries(row)) {
    if (text === "") continue;
    if (!COLUMNS.has(column)) attributes[column] = text;
    else if (column === "value") own.value = text.includes(" ") ? text.split(/ +/).map(numberOf) : numberOf(text);
    else own[column] = text;
  }
  return checked({ ...own, attributes }, defaults);
}
