import { auth, publicAddress } from "@/access/auth";
import { sendMail } from "@/access/mail";
import { whyNoPassword } from "@/core/access/passwords";
import type { AccountCaller, Caller } from "@/core/access/rights";
import { networkOf } from "@/core/http/network";
import { type AttemptBy, attemptSucceeded, beginAttempt } from "@/store/access/attempts";
import { attempts, database } from "./database";
import { Refusal } from "./serve";

/** What calls about signing in have in common. */

/** The code of an error of the authentication library; undefined where it is another's. */
function codeOf(error: unknown): string | undefined {
  const { name, body } = error as { name?: string; body?: { code?: string; message?: string } };
  return name === "APIError" ? (body?.code ?? body?.message ?? "UNKNOWN") : undefined;
}

/**
 * Waits for what the authentication library does.
 *
 * @param otherwise what is said where it refuses
 * @param of what is said of some of its codes instead
 * @throws Refusal
 */
export async function refusing<T>(
  work: Promise<T>,
  otherwise: Refusal,
  of: Readonly<Record<string, Refusal>> = {},
): Promise<T> {
  try {
    return await work;
  } catch (error) {
    const code = codeOf(error);
    if (code === undefined) throw error;
    throw of[code] ?? otherwise;
  }
}

const duration = (wait: number) =>
  wait < 60_000 ? `${Math.ceil(wait / 1000)} seconds` : `${Math.ceil(wait / 60_000)} minutes`;

const WRONG = new Refusal(401, { title: "Not signed in", detail: "the address or the password is wrong" });
const SWITCHED_OFF = new Refusal(403, { title: "Switched off", detail: "this account is switched off; ask an owner" });

/**
 * One attempt at a password or a code, slowed by the account that it is for and by where it comes from. It counts as
 * failed unless `work` comes to its end.
 *
 * @param email the account's address; null where it is not known
 * @throws Refusal 429 where it comes too soon, whether or not there is such an account
 */
export async function attempted<T>(email: string | null, address: string, work: () => Promise<T>): Promise<T> {
  const by: AttemptBy[] = [{ kind: "address", value: networkOf(address) }];
  if (email !== null) by.push({ kind: "account", value: email });
  const wait = await beginAttempt(attempts(), by);
  if (wait > 0) {
    const detail = `too many attempts failed; sign-in is locked for this account or address, try again in ${duration(wait)}`;
    throw new Refusal(429, { title: "Too many attempts", detail }, wait);
  }
  const result = await work();
  await attemptSucceeded(attempts(), by);
  return result;
}

/** Signs in with address and password. @returns whether a code is still asked for @throws Refusal */
export async function signedIn(
  body: { email: string; password: string },
  request: Request,
  heads: Headers,
): Promise<{ codeNeeded: boolean }> {
  const asked = auth(database()).api.signInEmail({ body, headers: request.headers, returnHeaders: true });
  const { headers, response } = await refusing(asked, WRONG, { BANNED_USER: SWITCHED_OFF });
  takeCookies(headers, heads);
  return { codeNeeded: "twoFactorRedirect" in response && response.twoFactorRedirect === true };
}

/** Hands the library's cookies on. */
export function takeCookies(from: Headers, to: Headers): void {
  for (const cookie of from.getSetCookie()) to.append("Set-Cookie", cookie);
}

/** @throws Refusal where a password cannot be used */
export function checkPassword(password: string, about: readonly string[]): void {
  const detail = whyNoPassword(password, about);
  if (detail !== null) throw new Refusal(400, { title: "Another password", detail });
}

/** Tells somebody by mail, where mail is set up, that a way into their account changed. Nothing waits for it. */
export function tellOfChange(email: string, what: string): void {
  const text = `${what} at Tin Ladder, ${publicAddress()}, on ${new Date().toUTCString()}.\n\nIf it was not you, choose another password at once, end your other sessions under Settings, and tell an owner.\n`;
  void sendMail(email, what, text);
}

export const LINK_ENDED = new Refusal(410, {
  title: "This address has ended",
  detail: "it was used already, or its time is over; ask for another",
});

/** The account of a call that only people may use. */
export function accountOf(caller: Caller): AccountCaller {
  if (caller.kind !== "account") throw new Error("a call for people was answered to somebody else");
  return caller;
}
