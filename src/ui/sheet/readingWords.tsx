import { lex, type Token } from "@/core/reading/language/lex";
import { ReadingError } from "@/core/reading/language/tree";

/** Words of the language that only hold a reading together. */
const QUIET = new Set(
  "of that where by over every top bottom shifted gaps is not one and or contains starts ends with matches there missing under as".split(
    " ",
  ),
);

function tokensOf(text: string): Token[] {
  try {
    return lex(text).filter(({ kind }) => kind !== "end");
  } catch (error) {
    if (error instanceof ReadingError) return [];
    throw error;
  }
}

/** A reading as it is read: what it is about stands out, and picks say what is chosen. */
export function ReadingWords({ text, words }: { text: string; words: (pick: string) => string | undefined }) {
  const tokens = tokensOf(text);
  if (tokens.length === 0) return <>{text}</>;
  return (
    <>
      {tokens.map(({ kind, text: said, from }, i) => {
        const before = i === 0 ? "" : text.slice(tokens[i - 1].to, from);
        const quiet = kind === "symbol" || (kind === "word" && QUIET.has(said));
        const shown =
          kind === "pick" ? (words(said) ?? `<${said}>`) : kind === "string" ? said : text.slice(from, tokens[i].to);
        return (
          <span key={from}>
            {before}
            {quiet ? shown : <b className="font-semibold text-base-content">{shown}</b>}
          </span>
        );
      })}
    </>
  );
}
