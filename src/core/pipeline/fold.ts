import type { RE2JS } from "re2js";
import { compilePattern } from "../pattern/pattern";
import type { Fold } from "./parts";

/** Folding: values that differ in nothing but an id become one value, by patterns on a linear-time engine (RE2). */

interface Rule {
  pattern: RE2JS;
  to: string;
}

const rule = (pattern: string, to: string): Rule => ({ pattern: compilePattern(pattern), to });

/** In the order in which they are applied: the wider shapes first, so that no part of one is taken for another. */
const READY: Record<Fold, readonly Rule[]> = {
  emails: [rule("[A-Za-z0-9._%+-]+@[A-Za-z0-9-]+(?:\\.[A-Za-z0-9-]+)+", "{email}")],
  uuids: [rule("[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}", "{uuid}")],
  // Only what is left of an address up to its path, or only what is right of its host.
  hosts: [rule("^[A-Za-z][A-Za-z0-9+.-]*://(?:[^/@]*@)?([^/:?#]+).*$", "$1")],
  paths: [rule("^[A-Za-z][A-Za-z0-9+.-]*://[^/?#]*", ""), rule("[?#].*$", "")],
  // Hex is told from words and numbers by having both letters and digits, and some length.
  hex: [rule("\\b(?:[0-9]+[a-fA-F]|[a-fA-F]+[0-9])[0-9a-fA-F]{6,}\\b", "{hex}")],
  numbers: [rule("\\b[0-9]+\\b", "{id}")],
};
const ORDER: readonly Fold[] = ["emails", "hosts", "paths", "uuids", "hex", "numbers"];

/** Ready patterns, and ones of a team's own with what stands in place of what they find. */
export interface Folding {
  folds: readonly Fold[];
  own: readonly { pattern: string; to: string }[];
}

/** Makes a step's patterns ready. @returns what a value becomes */
export function folder({ folds, own }: Folding) {
  const rules = [
    ...own.map(({ pattern, to }) => rule(pattern, to)),
    ...ORDER.filter((name) => folds.includes(name)).flatMap((name) => READY[name]),
  ];
  return (value: string): string =>
    rules.reduce((text, { pattern, to }) => pattern.matcher(text).replaceAll(to), value);
}
