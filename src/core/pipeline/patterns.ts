import type { RE2JS } from "re2js";
import { compilePattern } from "../pattern/pattern";

/** A pattern with named groups (RE2: time linear in the text). */
export class Pattern {
  private readonly pattern: RE2JS;
  private readonly names: [name: string, group: number][];

  /** @throws where the pattern is not understood */
  constructor(text: string) {
    this.pattern = compilePattern(text);
    this.names = Object.entries(this.pattern.namedGroups());
  }

  /** What the groups found, by name; nothing where the pattern does not match. */
  groups(text: string): Record<string, string> {
    const matcher = this.pattern.matcher(text);
    if (!matcher.find()) return {};
    return Object.fromEntries(
      this.names.flatMap(([name, group]) => {
        const found = matcher.group(group);
        return found === null ? [] : [[name, found]];
      }),
    );
  }
}
