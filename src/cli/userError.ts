/** A failure that a person can do something about: its message is all that is shown. */
export class UserError extends Error {
  override name = "UserError";
}

/** Tells of something beside the output. */
export function say(text: string): void {
  process.stderr.write(`${text}\n`);
}

/** `3 points`. */
export function counted(count: number, one: string, many = `${one}s`): string {
  return `${count.toLocaleString("en")} ${count === 1 ? one : many}`;
}
