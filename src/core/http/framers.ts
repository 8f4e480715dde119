/** Who may show shared sheets in a frame of their pages. */

/**
 * The origins in a list with commas between them.
 *
 * @param setting what to say the list is
 * @throws Error where something in it is no origin
 */
export function originsIn(text: string, setting: string): string[] {
  return text
    .split(",")
    .map((one) => one.trim())
    .filter((one) => one !== "")
    .map((one) => {
      // It goes to browsers as it is understood: nothing may stand in it that a policy reads as more than a name.
      const origin = /^(https?:\/\/[a-z0-9.-]+(?::\d{1,5})?)\/?$/.exec(one.toLowerCase())?.[1];
      if (origin === undefined)
        throw new Error(`${setting}: "${one}" is no origin such as https://wiki.fern-anvil.example`);
      return origin;
    });
}
