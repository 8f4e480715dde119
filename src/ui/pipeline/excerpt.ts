/** Where two texts differ, with a little of what is around: long ones are cut, so that what changes is seen. */

const AROUND = 16;
const LONG = 48;

function sharedLength(a: string, b: string): number {
  let length = 0;
  while (length < a.length && length < b.length && a[length] === b[length]) length++;
  return length;
}

function reversed(text: string): string {
  return [...text].reverse().join("");
}

export function excerpts(before: string, after: string): { before: string; after: string } {
  if (before.length <= LONG && after.length <= LONG) return { before, after };
  const start = sharedLength(before, after);
  // What is alike at the end does not reach into what is alike at the beginning.
  const end = sharedLength(reversed(before.slice(start)), reversed(after.slice(start)));
  const cut = (text: string) => {
    const from = Math.max(0, start - AROUND);
    const to = Math.min(text.length, text.length - end + AROUND);
    const part = text.slice(from, to);
    const shown = part.length > 2 * LONG ? `${part.slice(0, 2 * LONG)}…` : part;
    return `${from > 0 ? "…" : ""}${shown}${to < text.length ? "…" : ""}`;
  };
  return { before: cut(before), after: cut(after) };
}
