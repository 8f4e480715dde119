import { isLoopbackHost, isLoopbackOrigin } from "./loopback";

/** Which names a server answers to, and where a caller is. */

/** Whether an address to listen on is of this machine only. */
export function isLoopbackAddress(address: string): boolean {
  return isLoopbackHost(address.includes(":") && !address.startsWith("[") ? `[${address}]` : address);
}

/**
 * Whether a Host header names us: this machine, or the address that people open. One without it is not from a browser and
 * passes.
 *
 * @param publicUrl where people open the pages; null where that is this machine
 */
export function isServedHost(host: string | null, publicUrl: string | null): boolean {
  if (isLoopbackHost(host)) return true;
  return publicUrl !== null && host?.toLowerCase() === new URL(publicUrl).host;
}

/** Whether an Origin header, where there is one, is a page of ours. */
export function isServedOrigin(origin: string | null, publicUrl: string | null): boolean {
  if (isLoopbackOrigin(origin)) return true;
  return publicUrl !== null && origin?.toLowerCase() === new URL(publicUrl).origin;
}

/** An IPv4 address in IPv6's clothes is what it stands for (RFC 4291, section 2.5.5.2). */
function bare(address: string): string {
  return /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1] ?? address;
}

/**
 * Where a caller is: who is connected, or, where that is a proxy that is trusted, the last one in `X-Forwarded-For` that
 * is none. What stands before that may be anybody's word.
 *
 * @param peer the address that is connected
 * @param forwarded the header; undefined for none
 */
export function callerAddress(
  peer: string,
  forwarded: string | undefined,
  isTrusted: (address: string) => boolean,
): string {
  let caller = bare(peer);
  const named = (forwarded ?? "").split(",").map((one) => bare(one.trim()));
  while (isTrusted(caller)) {
    const before = named.pop();
    if (before === undefined || before === "") break;
    caller = before;
  }
  return caller;
}
