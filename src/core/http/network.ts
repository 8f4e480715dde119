/** The eight groups of an IPv6 address, in hex without leading zeros. */
function groupsOf(address: string): string[] {
  const [left, right] = address.split("%")[0].split("::");
  const parts = (text: string | undefined) => (text ? text.split(":") : []);
  const [before, after] = [parts(left), parts(right)];
  const missing = right === undefined ? 0 : 8 - before.length - after.length;
  return [...before, ...new Array<string>(Math.max(0, missing)).fill("0"), ...after].map((group) =>
    group.toLowerCase().replace(/^0+(?=.)/, ""),
  );
}

/** Whose an address is, as far as attempts are counted: of IPv6 the first 64 bits, which one subscriber has all addresses of (RFC 6177). */
export function networkOf(address: string): string {
  return address.includes(":") && !address.includes(".") ? `${groupsOf(address).slice(0, 4).join(":")}::/64` : address;
}
