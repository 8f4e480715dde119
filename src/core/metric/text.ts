import type { Attributes, AttributeValue } from "./model";

const encoder = new TextEncoder();
const decoder = new TextDecoder();

/**
 * A text that stands for itself. A part cut out of a larger text keeps all of that in memory for as long as it lives, so
 * what is kept beyond the request or page that it came in has to be copied.
 */
export function ownText(text: string): string {
  return decoder.decode(encoder.encode(text));
}

/** An attribute's value as people and searches see it: lists and maps as JSON. */
export function valueText(value: AttributeValue): string {
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}

/** All attributes with their values as text. */
export function attributesText(attributes: Attributes): Record<string, string> {
  return Object.fromEntries(Object.entries(attributes).map(([name, value]) => [name, valueText(value)]));
}
