import dns from "node:dns/promises";
import type { LookupFunction } from "node:net";
import { BlockList, isIP, isIPv6 } from "node:net";
import { networksIn } from "@/core/http/networks";
import { connectionFailure, ScrapeError } from "@/core/scrape/failure";
import { setting } from "@/core/settings/environment";

/** Addresses that we go to by ourselves: only those in allowed networks, after their names were looked up. */

/** @throws where the text is no list of networks */
export function networks(text = setting("TIN_SCRAPE_NETWORKS")): BlockList {
  const list = new BlockList();
  for (const { address, bits, family } of networksIn(text, "TIN_SCRAPE_NETWORKS"))
    list.addSubnet(address, bits, family);
  return list;
}

/** Nobody's services: what a machine is told about itself by its host, its own link, everybody at once. Whatever is set. */
const NEVER = new BlockList();
for (const [network, bits] of [
  ["0.0.0.0", 8],
  ["169.254.0.0", 16],
  ["100.100.100.200", 32],
  ["224.0.0.0", 3],
] as const)
  NEVER.addSubnet(network, bits, "ipv4");
for (const [network, bits] of [
  ["::", 128],
  ["fe80::", 10],
  ["fd00:ec2::254", 128],
  ["ff00::", 8],
] as const)
  NEVER.addSubnet(network, bits, "ipv6");

/** Whether an address may be asked: it is in an allowed network, and not one of those that are never asked. */
function mayBeAsked(address: string, allowed: BlockList): boolean {
  // An IPv4 address in IPv6's clothes is what it stands for (RFC 4291, section 2.5.5.2).
  const bare = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1] ?? address;
  const family = isIPv6(bare) ? "ipv6" : "ipv4";
  return allowed.check(bare, family) && !NEVER.check(bare, family);
}

/** The address of a host that may be asked. @throws ScrapeError */
export async function resolveAllowed(host: string, allowed: BlockList): Promise<string> {
  const bare = host.replace(/^\[|\]$/g, "");
  let addresses: string[];
  try {
    addresses = isIP(bare) ? [bare] : (await dns.lookup(bare, { all: true })).map(({ address }) => address);
  } catch (error) {
    throw connectionFailure(error as NodeJS.ErrnoException);
  }
  const fine = addresses.filter((address) => mayBeAsked(address, allowed));
  if (fine.length === 0)
    throw new ScrapeError("forbidden", `${bare} is ${addresses.join(", ")}, which is not in an allowed network`);
  // Where both kinds are there, the older is more often the one that is listened on.
  return fine.find((address) => !isIPv6(address)) ?? fine[0];
}

/** Answers every question with an address that was looked up and checked; nobody may answer differently a moment later. */
export function pinned(address: string): LookupFunction {
  return (_, options, callback) => {
    const family = isIPv6(address) ? 6 : 4;
    if (options.all) (callback as (error: null, all: object[]) => void)(null, [{ address, family }]);
    else callback(null, address, family);
  };
}
