import { createHmac } from "node:crypto";
import { betterAuth } from "better-auth";
import { drizzleAdapter } from "better-auth/adapters/drizzle";
import { admin, twoFactor } from "better-auth/plugins";
import { adminAc, userAc } from "better-auth/plugins/admin/access";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { LONGEST, SHORTEST } from "@/core/access/passwords";
import { CALLER_HEADER } from "@/core/http/callerHeader";
import { setting } from "@/core/settings/environment";
import { DAY } from "@/core/window/lengths";
import { signingKey } from "@/store/database/secrets";
import { codeSecret, credential, person, signIn, verification } from "@/store/schema";

/**
 * Accounts, passwords, sessions and one-time codes are the authentication library's work, on our tables. It is called by
 * our own handlers only: nothing of its routes is reachable from outside.
 */

/** How long a session lasts, s. */
const SESSION_SECONDS = (14 * DAY) / 1000;

/** Where people open the pages, without a slash at the end. */
export function publicAddress(): string {
  return (setting("TIN_PUBLIC_URL") ?? `http://localhost:${setting("TIN_WEB_PORT")}`).replace(/\/+$/, "");
}

/**
 * What the names of cookies begin with. Cookies do not tell ports apart (RFC 6265, section 8.5): two installations on one
 * host have names of their own.
 */
export function cookiePrefix(): string {
  const { port } = new URL(publicAddress());
  return port === "" ? "tin" : `tin-${port}`;
}

function make(pool: pg.Pool) {
  const database = drizzleAdapter(drizzle(pool), {
    provider: "pg",
    schema: { user: person, session: signIn, account: credential, verification, twoFactor: codeSecret },
    transaction: true,
  });
  return betterAuth({
    appName: "Tin Ladder",
    baseURL: publicAddress(),
    basePath: "/api/auth",
    secret: signingKey("sessions"),
    database,
    telemetry: { enabled: false },
    logger: { level: "error" },
    // What comes in goes through our calls, which slow attempts by account and address.
    rateLimit: { enabled: false },
    emailAndPassword: {
      enabled: true,
      disableSignUp: true,
      minPasswordLength: SHORTEST,
      // In code units; characters are counted before.
      maxPasswordLength: 2 * LONGEST,
    },
    session: { expiresIn: SESSION_SECONDS, disableSessionRefresh: true, freshAge: 0 },
    advanced: {
      cookiePrefix: cookiePrefix(),
      useSecureCookies: publicAddress().startsWith("https:"),
      ipAddress: { ipAddressHeaders: [CALLER_HEADER] },
    },
    plugins: [
      admin({
        defaultRole: "viewer",
        adminRoles: ["owner"],
        roles: { viewer: userAc, editor: userAc, owner: adminAc },
        bannedUserMessage: "this account is switched off; ask an owner",
      }),
      twoFactor({ issuer: "Tin Ladder", backupCodeOptions: { storeBackupCodes: "encrypted" } }),
    ],
  });
}

export type Auth = ReturnType<typeof make>;

const here = globalThis as typeof globalThis & { tinLadderAuth?: WeakMap<pg.Pool, Auth> };

/** The library, on some connections: one for each set of them. */
export function auth(pool: pg.Pool): Auth {
  here.tinLadderAuth ??= new WeakMap();
  let made = here.tinLadderAuth.get(pool);
  if (!made) {
    made = make(pool);
    here.tinLadderAuth.set(pool, made);
  }
  return made;
}

/** The password of an account of the demonstration, which nobody types. */
export function demonstrationPassword(email: string): string {
  return createHmac("sha256", signingKey("demonstration")).update(email).digest("base64url");
}

/** The account for which a code is still asked, by the cookie of a sign-in that is half done; null where there is none. */
export async function halfSignedIn(pool: pg.Pool, headers: Headers): Promise<string | null> {
  const found = new RegExp(`(?:^|;\\s*)(?:__Secure-)?${cookiePrefix()}\\.two_factor=([^;]+)`).exec(
    headers.get("cookie") ?? "",
  );
  if (!found) return null;
  // An identifier has no character that a cookie writes in another way; what follows the dot signs it.
  const [identifier] = found[1].split(".");
  const { rows } = await pool.query<{ value: string }>(
    "SELECT value FROM verification WHERE identifier = $1 AND expires_at > now()",
    [identifier],
  );
  return rows[0]?.value ?? null;
}
