import type pg from "pg";
import type { Caller, Role } from "@/core/access/rights";
import { findKey, keyIn, noteUse, whyNotTaken } from "@/store/access/keys";
import { auth, cookiePrefix } from "./auth";
import { codesRequired } from "./people";

/** Who asks: by the key that a request shows, or by its session. */

/** A key that is not taken, with why. */
export class KeyRefused extends Error {
  override name = "KeyRefused";
}

/** How often the use of a key is noted, ms. */
const NOTE_EVERY = 5000;
const noted = new Map<number, number>();

function noteKey(pool: pg.Pool, id: number): void {
  const now = Date.now();
  if (now - (noted.get(id) ?? 0) < NOTE_EVERY) return;
  noted.set(id, now);
  // When a key was last used is worth no failed request.
  noteUse(pool, new Map([[id, now]])).catch(() => {});
}

async function keyCaller(pool: pg.Pool, authorization: string): Promise<Caller> {
  const text = keyIn(authorization);
  if (text === undefined)
    throw new KeyRefused("the authorization header holds no bearer key; send Authorization: Bearer KEY");
  const key = await findKey(pool, text);
  const why = whyNotTaken(key, Date.now());
  if (!key || why !== null) throw new KeyRefused(why ?? "the key is not known here");
  noteKey(pool, key.id);
  return { kind: "key", id: key.id, name: key.name, scopes: key.scopes, environment: key.environment };
}

/** The session that a cookie names. @throws what the database throws: the library keeps it to itself */
async function sessionOf(pool: pg.Pool, headers: Headers) {
  try {
    return await auth(pool).api.getSession({ headers });
  } catch (error) {
    await pool.query("SELECT 1");
    throw error;
  }
}

/** Who sent a request. Looked up each time: who is switched off is so from the next request on. @throws KeyRefused */
export async function callerOf(pool: pg.Pool, headers: Headers): Promise<Caller> {
  const authorization = headers.get("authorization");
  if (authorization) return keyCaller(pool, authorization);
  if (headers.get("cookie")?.includes(`${cookiePrefix()}.session_token`)) {
    const found = await sessionOf(pool, headers);
    if (found && !found.user.banned) {
      const { id, name, email, role, twoFactorEnabled } = found.user;
      return {
        kind: "account",
        id,
        name,
        email,
        role: role as Role,
        session: found.session.id,
        codes: twoFactorEnabled === true,
        mustSetUpCodes: twoFactorEnabled !== true && (await codesRequired(pool)),
      };
    }
  }
  return { kind: "nobody" };
}

/** The name that stands beside what a caller saves. */
export function nameOf(caller: Caller): string {
  if (caller.kind === "account" || caller.kind === "key") return caller.name;
  return "nobody";
}
