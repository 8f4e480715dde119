import type { Resolution } from "@/core/reading/result";

const WORDS: Record<Resolution, string> = { raw: "every point", minute: "minutes", hour: "hours" };

/** What a reading was read from, in words: "hours, minutes and every point". */
export function readFrom(resolutions: readonly Resolution[]): string {
  const words = [...resolutions].reverse().map((one) => WORDS[one]);
  if (words.length === 0) return "nothing";
  return words.length === 1 ? words[0] : `${words.slice(0, -1).join(", ")} and ${words[words.length - 1]}`;
}
