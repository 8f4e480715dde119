import { z } from "zod";
import { isPattern } from "../schema/refinements";

/** Picks: choices at the head of a sheet that its readings refer to as <name>. */

/** A name as readings write it in <>. */
export const pickName = z
  .string()
  .trim()
  .regex(/^[\p{L}_][\p{L}\p{N}_.-]*$/u, "a name begins with a letter and goes on with letters, digits, and _ . -")
  .max(40);

const text = z.string().max(1000);

/** Where the values come from that can be chosen. */
const source = z.discriminatedUnion("of", [
  z.object({ of: z.literal("list"), values: z.array(text.min(1)).min(1, "a list needs values").max(500) }),
  /** Whatever is typed. */
  z.object({ of: z.literal("text") }),
  z.object({
    of: z.literal("values"),
    attribute: z.string().trim().min(1, "an attribute is expected").max(255),
    /** The metric whose series are looked at; "" for all. */
    metric: z.string().max(255).default(""),
    /** A condition on them, as readings write it, which may name other picks; "" for none. It needs a metric. */
    where: z.string().trim().max(2000).default(""),
    /** A pattern (RE2) whose first group is cut out of each value; values that it does not match are left out. "" for the whole value. */
    pattern: z.string().max(500).superRefine(isPattern).default(""),
  }),
  /** Releases of a service; "" for all services. */
  z.object({ of: z.literal("releases"), service: z.string().max(300).default("") }),
  z.object({ of: z.literal("services") }),
  z.object({ of: z.literal("environments") }),
]);
export type PickSource = z.infer<typeof source>;

export const pick = z.object({
  name: pickName,
  /** The words before its value in the sentence: "depot". */
  words: z.string().trim().min(1, "say what is picked").max(60),
  source,
  /** Whether several may be chosen. */
  many: z.boolean().default(false),
  /** Whether all may be: then nothing is left out. */
  all: z.boolean().default(true),
  /** What is chosen where nobody chose; empty for all, or for the first where all may not be. */
  preset: z.array(text).max(100).default([]),
});
export type Pick = z.infer<typeof pick>;

/** What stands for "all" in an address. */
export const ALL = "*";

/** The values that are chosen, by pick; an empty list: all. */
export type Chosen = Readonly<Record<string, readonly string[]>>;

/** How a pick is called in an address. */
export function addressName(name: string): string {
  return `pick.${name}`;
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
