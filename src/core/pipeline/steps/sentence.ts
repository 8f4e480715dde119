/** A step as a sentence: words, and slots that change one setting each. The screen draws them; nothing here does. */

interface Of {
  /** The setting that it changes. */
  field: string;
  /** What it is called by those who do not see it. */
  name: string;
  /** What stands there where nothing is set. */
  placeholder?: string;
}

export type Fragment =
  | string
  /** `share` is written in per cent; lists with commas. */
  | (Of & { slot: "text" | "number" | "names" | "numbers" | "share" })
  | (Of & { slot: "choice"; words: Readonly<Record<string, string>> })
  | (Of & { slot: "either"; yes: string; no: string })
  /** Which ready patterns fold, and one of the team's own. */
  | { slot: "folds" }
  /** Said beside: what is not needed to understand the rest. */
  | { slot: "beside"; fragments: readonly Fragment[] };

export const text = (field: string, name: string, placeholder?: string): Fragment => ({
  slot: "text",
  field,
  name,
  placeholder,
});
export const number = (field: string, name: string, placeholder?: string): Fragment => ({
  slot: "number",
  field,
  name,
  placeholder,
});
export const names = (field: string, name: string): Fragment => ({ slot: "names", field, name });
export const numbers = (field: string, name: string): Fragment => ({ slot: "numbers", field, name });
export const share = (field: string, name: string): Fragment => ({ slot: "share", field, name });
export const choice = (field: string, name: string, words: Readonly<Record<string, string>>): Fragment => ({
  slot: "choice",
  field,
  name,
  words,
});
export const either = (field: string, name: string, yes: string, no: string): Fragment => ({
  slot: "either",
  field,
  name,
  yes,
  no,
});
