import { dictionary } from "@zxcvbn-ts/language-common";

/** What a password has to be (OWASP ASVS 5.0, 6.2): long enough, none of the commonest, and nothing that is known of its owner. */

export const SHORTEST = 10;
export const LONGEST = 128;

/** The commonest passwords, of which so many are refused. */
const COMMON = 10_000;

let known: ReadonlySet<string> | null = null;

/** Whether a password is one of the commonest, in whatever case. */
export function isCommon(password: string): boolean {
  known ??= new Set(dictionary["passwords-common"].slice(0, COMMON).map((one) => String(one).toLowerCase()));
  return known.has(password.toLowerCase());
}

/** Why a password cannot be used; null where it can. @param about what is known of its owner: name, address for mail */
export function whyNoPassword(password: string, about: readonly string[]): string | null {
  const length = [...password].length;
  if (length < SHORTEST)
    return `a password has at least ${SHORTEST} characters; four words that nobody would guess are good`;
  if (length > LONGEST) return `a password has at most ${LONGEST} characters`;
  if (isCommon(password)) return "this is one of the passwords that everybody tries first; take another";
  const own = about.flatMap((text) => [text, text.split("@")[0]]).map((text) => text.trim().toLowerCase());
  if (own.includes(password.toLowerCase())) return "a password is not one's own name or address; take another";
  if (new Set(password).size < 4) return "a password needs more than three different characters";
  return null;
}
