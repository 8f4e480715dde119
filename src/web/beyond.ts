import type pg from "pg";
import { hasOwner } from "@/access/people";
import { isLoopbackAddress } from "@/core/http/served";
import { setting } from "@/core/settings/environment";
import { SettingError } from "@/core/settings/settings";

/**
 * Whether pages may listen where the settings say. This machine is always served; others only once somebody owns the
 * installation, and over TLS.
 *
 * @throws SettingError with what to do first
 */
export async function checkListening(pool: pg.Pool): Promise<void> {
  const [host, address] = [setting("TIN_HOST"), setting("TIN_PUBLIC_URL")];
  if (address !== null && !/^https?:\/\/[^/?#]+\/?$/i.test(address))
    throw new SettingError(
      `TIN_PUBLIC_URL is set to "${address}"; an address such as https://tin.fern-anvil.example is expected`,
    );
  const beyond = !isLoopbackAddress(host);
  if (beyond && address === null)
    throw new SettingError(`TIN_HOST is ${host}: say in TIN_PUBLIC_URL under which address people open the pages`);
  if (
    address?.toLowerCase().startsWith("http:") &&
    (beyond || !isLoopbackAddress(new URL(address).hostname)) &&
    setting("TIN_ALLOW_HTTP") !== "yes"
  )
    throw new SettingError(
      `TIN_PUBLIC_URL is ${address}${beyond ? `, and TIN_HOST is ${host}` : ""}: passwords would go over the network as they are typed; put a proxy with TLS in front and say https://, or set TIN_ALLOW_HTTP=yes`,
    );
  const others = beyond || (address !== null && !isLoopbackAddress(new URL(address).hostname));
  if (others && !(await hasOwner(pool)))
    throw new SettingError(
      "nobody owns this installation yet: start it without TIN_HOST and TIN_PUBLIC_URL, make the first owner by the address that is printed, then start it again",
    );
}
