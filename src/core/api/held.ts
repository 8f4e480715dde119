import { z } from "zod";

/** Values that calls must have, as they stand in addresses: `depot=Brindle`; `depot` alone is for calls without it. */

export interface HeldValue {
  attribute: string;
  value: string | null;
}

/** The text of a value that calls are held to. An attribute with "=" in its name cannot be held to. */
export function heldText({ attribute, value }: HeldValue): string {
  return value === null ? attribute : `${attribute}=${value}`;
}

/** Reads it back. */
export function heldFrom(text: string): HeldValue {
  const at = text.indexOf("=");
  return at < 0 ? { attribute: text, value: null } : { attribute: text.slice(0, at), value: text.slice(at + 1) };
}

const MAX_HELD = 8;
const one = z.string().min(1).max(1000);

/** As a part of a query: once or several times. */
export const heldQuery = z
  .union([one.transform((text) => [text]), z.array(one).max(MAX_HELD)])
  .default([])
  .transform((all) => all.map(heldFrom))
  .refine((all) => all.every(({ attribute }) => attribute !== ""), "an attribute is expected, as in depot=Brindle")
  .meta({ description: "Only calls with this value, as in depot=Brindle; as often as needed." });
