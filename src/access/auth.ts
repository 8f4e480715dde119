import { AsyncLocalStorage } from "node:async_hooks";
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
import { DAY, HOUR } from "@/core/window/lengths";
import { signingKey } from "@/store/database/secrets";
import { codeSecret, credential, person, signIn, verification } from "@/store/schema";

/**
 * Accounts, passwords, sessions and one-time codes are the authentication library's work, on our tables. It is called by
 * our own handlers only: nothing of its routes is reachable from outside.
 */

/** How long a session lasts, s. */
const SESSION_SECONDS = (14 * DAY) / 1000;
/** How long a link for a new password works, ms. */
export const RESET_LASTS = HOUR;

/** Where people open the pages, without a slash at the end. */
export function publicAddress(): string {
  return (setting("TIN_PUBLIC_URL") ?? `http://localhost:${setting("TIN_WEB_PORT")}`).replace(/\/+$/, "");
}

/** What the library tells while it works: the text of a reset link, and whose password was set. */
const told = new AsyncLocalStorage<{ token?: string; email?: string }>();

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
      resetPasswordTokenExpiresIn: RESET_LASTS / 1000,
      revokeSessionsOnPasswordReset: true,
      sendResetPassword: async ({ token }) => {
        Object.assign(told.getStore() ?? {}, { token });
      },
      onPasswordReset: async ({ user }) => {
        Object.assign(told.getStore() ?? {}, { email: user.email });
      },
    },
    session: { expiresIn: SESSION_SECONDS, disableSessionRefresh: true, freshAge: 0 },
    advanced: {
      cookiePrefix: "tin",
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

/** The text of a link for a new password; null where no account has the address. */
export async function resetToken(pool: pg.Pool, email: string): Promise<string | null> {
  const heard: { token?: string } = {};
  await told.run(heard, () => auth(pool).api.requestPasswordReset({ body: { email } }));
  return heard.token ?? null;
}

/** Sets a new password by the text of such a link. @returns whose it is @throws where the link has ended */
export async function setPasswordByLink(pool: pg.Pool, token: string, newPassword: string): Promise<string> {
  const heard: { email?: string } = {};
  await told.run(heard, () => auth(pool).api.resetPassword({ body: { newPassword, token } }));
  return heard.email ?? "";
}

/** The password of an account of the demonstration, which nobody types. */
export function demonstrationPassword(email: string): string {
  return createHmac("sha256", signingKey("demonstration")).update(email).digest("base64url");
}

/** The account for which a code is still asked, by the cookie of a sign-in that is half done; null where there is none. */
export async function halfSignedIn(pool: pg.Pool, headers: Headers): Promise<string | null> {
  const found = /(?:^|;\s*)(?:__Secure-)?tin\.two_factor=([^;]+)/.exec(headers.get("cookie") ?? "");
  if (!found) return null;
  // An identifier has no character that a cookie writes in another way; what follows the dot signs it.
  const [identifier] = found[1].split(".");
  const { rows } = await pool.query<{ value: string }>(
    "SELECT value FROM verification WHERE identifier = $1 AND expires_at > now()",
    [identifier],
  );
  return rows[0]?.value ?? null;
}
