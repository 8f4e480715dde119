/** The fonts of a piece of the page, so that a picture of it has them wherever it is looked at. */

/** Whether any character of a text is in a range as style sheets write it (CSS Fonts 4: "U+0000-00FF, U+4??"). */
export function rangeHas(range: string, text: string): boolean {
  if (range.trim() === "") return true;
  const parts = range.split(",").map((part) => {
    const [from, to = from] = part.trim().replace(/^U\+/i, "").split("-");
    return [Number.parseInt(from.replaceAll("?", "0"), 16), Number.parseInt(to.replaceAll("?", "F"), 16)];
  });
  return [...text].some((letter) => {
    const code = letter.codePointAt(0)!;
    return parts.some(([from, to]) => code >= from && code <= to);
  });
}

/** The names in a list of font families, as style sheets write it. */
export function familiesIn(list: string): string[] {
  return list.split(",").map((name) => name.trim().replace(/^(["'])(.*)\1$/, "$2"));
}

/** A rule for a font, and the address that the addresses in it are relative to. */
interface Face {
  rule: CSSFontFaceRule;
  base: string;
}

function facesOfPage(): Face[] {
  return [...document.styleSheets].flatMap((sheet) => {
    const base = sheet.href ?? document.baseURI;
    return [...sheet.cssRules].flatMap((rule) => (rule instanceof CSSFontFaceRule ? [{ rule, base }] : []));
  });
}

const kept = new Map<string, Promise<string>>();

/** A file as an address that has it inside. */
function inlined(address: string): Promise<string> {
  const held = kept.get(address);
  if (held) return held;
  const asked = fetch(address).then(async (response) => {
    if (!response.ok) throw new Error(`the font ${address} is not there`);
    const blob = await response.blob();
    return new Promise<string>((resolve, reject) => {
      const reader = new FileReader();
      reader.onload = () => resolve(reader.result as string);
      reader.onerror = () => reject(reader.error);
      reader.readAsDataURL(blob);
    });
  });
  kept.set(address, asked);
  asked.catch(() => kept.delete(address));
  return asked;
}

const ADDRESS = /url\((["']?)(.*?)\1\)/g;

async function withFiles({ rule, base }: Face): Promise<string> {
  let css = rule.cssText;
  for (const [written, , address] of css.matchAll(ADDRESS))
    css = css.replace(written, `url("${await inlined(new URL(address, base).href)}")`);
  return css;
}

/**
 * Rules for the fonts that a piece of the page is written in, with their files inside.
 *
 * @throws Error where a file cannot be had
 */
export async function fontsOf(piece: Element): Promise<string> {
  const all = [piece, ...piece.querySelectorAll("*")];
  const families = new Set(all.flatMap((one) => familiesIn(getComputedStyle(one).fontFamily)));
  const text = piece.textContent ?? "";
  const wanted = facesOfPage().filter(({ rule: { style } }) => {
    const [family] = familiesIn(style.getPropertyValue("font-family"));
    return families.has(family) && rangeHas(style.getPropertyValue("unicode-range"), text);
  });
  return (await Promise.all(wanted.map(withFiles))).join("\n");
}
