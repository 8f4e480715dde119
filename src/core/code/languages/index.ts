import { dotnet } from "./dotnet";
import { go } from "./go";
import { java } from "./java";
import type { LanguageCode } from "./language";
import { python } from "./python";
import { typescript } from "./typescript";

/** Languages that code is shown in. One is a file here, and a line. */
export const LANGUAGES: readonly LanguageCode[] = [typescript, python, java, go, dotnet];

/** A language by its name; the first where there is none of that name. */
export function languageNamed(name: string): LanguageCode {
  return LANGUAGES.find((one) => one.name === name) ?? LANGUAGES[0];
}
