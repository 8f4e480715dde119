/**
 * Where an address is, without what is asked there: scheme, host and port (RFC 6454). What is given for one origin is sent
 * to no other.
 *
 * @returns "" where the text is no address
 */
export function originOf(address: string): string {
  try {
    const { origin } = new URL(address);
    return origin === "null" ? "" : origin;
  } catch {
    return "";
  }
}
