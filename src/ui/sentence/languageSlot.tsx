import { LANGUAGES, languageNamed } from "@/core/code/languages";
import type { LanguageCode } from "@/core/code/languages/language";
import { Slot } from "./slot";

/** The language that code is shown in. */
export function LanguageSlot({
  language,
  onChoose,
}: {
  language: LanguageCode;
  onChoose: (language: LanguageCode) => void;
}) {
  return (
    <Slot
      name="language"
      options={LANGUAGES.map(({ name }) => ({ value: name }))}
      onChoose={(value) => onChoose(languageNamed(value))}
    >
      {language.name}
    </Slot>
  );
}
