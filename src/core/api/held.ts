/** Values that calls must have, as they stand in addresses: `depot=Brindle`; `depot` alone is for calls without it. Every page loads it. */

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
