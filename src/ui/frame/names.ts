/**
 * A name with no more than so many characters: the middle of a long one is left out, because names that stand together
 * mostly differ at their ends.
 */
export function shortName(name: string, most: number): string {
  const characters = [...name];
  if (characters.length <= most) return name;
  const end = Math.floor((most - 1) * 0.45);
  return `${characters.slice(0, most - 1 - end).join("")}…${characters.slice(characters.length - end).join("")}`;
}
