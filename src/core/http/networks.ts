/** A network as it is written: an address and how many of its bits count (RFC 4632, section 3.1). */
export interface Network {
  address: string;
  bits: number;
  family: "ipv4" | "ipv6";
}

/**
 * The networks in a list with commas between them.
 *
 * @param setting what to say the list is
 * @throws Error where something in it is no network
 */
export function networksIn(text: string, setting: string): Network[] {
  return text
    .split(",")
    .map((one) => one.trim())
    .filter((one) => one !== "")
    .map((one) => {
      const [, address, bits] = /^([0-9a-f.:]+)\/(\d{1,3})$/i.exec(one) ?? [];
      const family = address?.includes(":") ? "ipv6" : "ipv4";
      const sound = family === "ipv6" ? /^[0-9a-f:.]*:[0-9a-f:.]*$/i : /^\d{1,3}(\.\d{1,3}){3}$/;
      if (address === undefined || !sound.test(address) || Number(bits) > (family === "ipv6" ? 128 : 32))
        throw new Error(`${setting}: "${one}" is no network such as 10.0.0.0/8`);
      return { address, bits: Number(bits), family };
    });
}
