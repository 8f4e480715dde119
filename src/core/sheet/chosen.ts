import type { Pick } from "./pick";

/** What is chosen of the picks of a sheet, and how it stands in an address. */

/** What stands for "all" in an address. */
export const ALL = "*";

/** The values that are chosen, by pick; an empty list: all. */
export type Chosen = Readonly<Record<string, readonly string[]>>;

/** How a pick is called in an address. */
export function addressName(name: string): string {
  return `pick.${name}`;
}

/** What is chosen of picks in an address, by their names. */
export function picksInAddress(parameters: URLSearchParams): Chosen {
  const begin = addressName("");
  const names = [...new Set(parameters.keys())].filter((key) => key.startsWith(begin));
  return Object.fromEntries(names.map((key) => [key.slice(begin.length), parameters.getAll(key)]));
}

/**
 * What is chosen of each pick.
 *
 * @param picks each after those that its values depend on
 * @param inAddress the values that stand in the address, by name; nothing of a pick: nobody chose
 * @param firstOf the first value that there is of a pick whose values come from the data, with what is chosen before it;
 * undefined where it is not known
 * @returns what each stands for; left out where it has to be one and none is known yet
 */
export function chosenOf(
  picks: readonly Pick[],
  inAddress: Readonly<Record<string, readonly string[]>>,
  firstOf: (name: string, chosen: Chosen) => string | undefined,
): { chosen: Record<string, readonly string[]>; unknown: string[] } {
  const chosen: Record<string, readonly string[]> = {};
  const unknown: string[] = [];
  for (const { name, all, many, preset, source: from } of picks) {
    const asked = Object.hasOwn(inAddress, name) ? inAddress[name] : undefined;
    const wanted = asked?.includes(ALL) ? [] : (asked ?? preset);
    if (wanted.length > 0) chosen[name] = many ? wanted : wanted.slice(0, 1);
    else if (all || from.of === "text") chosen[name] = [];
    else {
      const first = from.of === "list" ? from.values[0] : firstOf(name, chosen);
      if (first === undefined) unknown.push(name);
      else chosen[name] = [first];
    }
  }
  return { chosen, unknown };
}

const MOST_SAID = 2;

/** What is chosen, in words: "Brindle", "Brindle, Candlewick and 4 more", "any". */
export function chosenWords(values: readonly string[]): string {
  if (values.length === 0) return "any";
  const said = values.slice(0, values.length === MOST_SAID + 1 ? MOST_SAID + 1 : MOST_SAID);
  const more = values.length - said.length;
  if (more > 0) return `${said.join(", ")} and ${more} more`;
  return said.length === 1 ? said[0] : `${said.slice(0, -1).join(", ")} and ${said[said.length - 1]}`;
}

/** Values in the order in which a person looks for them: as numbers where all are numbers, else as texts with figures in them. */
export function orderedValues(values: readonly string[]): string[] {
  const numbers = values.every((value) => value.trim() !== "" && Number.isFinite(Number(value)));
  const compare = new Intl.Collator("en", { numeric: true }).compare;
  return [...values].sort(numbers ? (a, b) => Number(a) - Number(b) : compare);
}
