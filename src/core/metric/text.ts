import type { Attributes, AttributeValue } from "./model";

/** An attribute's value as people and searches see it: lists and maps as JSON. */
export function valueText(value: AttributeValue): string {
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}

/** All attributes with their values as text. */
export function attributesText(attributes: Attributes): Record<string, string> {
  return Object.fromEntries(Object.entries(attributes).map(([name, value]) => [name, valueText(value)]));
}
