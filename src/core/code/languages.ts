/** The languages that code is written in here. */
export const LANGUAGES = ["TypeScript", "Python", "Java", "Go", ".NET"] as const;
export type Language = (typeof LANGUAGES)[number];

/** A text as a literal in double quotes, as all five languages read it. */
export function literal(text: string): string {
  return JSON.stringify(text);
}
