import type pg from "pg";
import { z } from "zod";
import { role } from "@/core/api/people";
import { isLoopbackHost } from "@/core/http/loopback";
import { isLoopbackAddress } from "@/core/http/served";
import { setting } from "@/core/settings/environment";
import { readSetting, writeSetting } from "@/store/database/settings";
import { demonstrationPassword, publicAddress } from "./auth";
import { createPerson, hasPeople } from "./people";

/** The demonstration's accounts: who looks at it may choose one, as long as only this machine is served. */

const SETTING = "demonstration";
const accounts = z.object({ accounts: z.array(z.object({ email: z.string(), name: z.string(), role })) });
export type DemonstrationAccount = z.infer<typeof accounts>["accounts"][number];

const CAST: readonly DemonstrationAccount[] = [
  { email: "ottilie@fern-anvil.example", name: "Ottilie Marsh", role: "owner" },
  { email: "quill@fern-anvil.example", name: "Quill Anvil", role: "editor" },
  { email: "marrow@fern-anvil.example", name: "Marrow Slate", role: "viewer" },
];

/**
 * Makes the accounts, with passwords that nobody knows, in a database whose data is the demonstration's.
 *
 * @returns the owner's address
 */
export async function castDemonstration(pool: pg.Pool): Promise<string> {
  if ((await hasPeople(pool)) && !accounts.safeParse(await readSetting(pool, SETTING)).success)
    throw new Error("this database has accounts of its own: the demonstration needs one by itself");
  for (const one of CAST) await createPerson(pool, { ...one, password: demonstrationPassword(one.email) });
  await writeSetting(pool, SETTING, { accounts: CAST });
  return CAST[0].email;
}

/** The accounts to choose from; null where there is no demonstration, or others than this machine are served. */
export async function demonstrationAccounts(pool: pg.Pool): Promise<readonly DemonstrationAccount[] | null> {
  if (!isLoopbackHost(new URL(publicAddress()).host) || !isLoopbackAddress(setting("TIN_HOST"))) return null;
  const read = accounts.safeParse(await readSetting(pool, SETTING));
  return read.success ? read.data.accounts : null;
}
