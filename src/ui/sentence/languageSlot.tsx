import { LANGUAGES, type Language } from "@/core/code/languages";
import { Slot } from "./slot";

/** The language that code is shown in. */
export function LanguageSlot({ language, onChoose }: { language: Language; onChoose: (language: Language) => void }) {
  return (
    <Slot
      name="language"
      options={LANGUAGES.map((value) => ({ value }))}
      onChoose={(value) => onChoose(value as Language)}
    >
      {language}
    </Slot>
  );
}
