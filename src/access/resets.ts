import type pg from "pg";
import type { Role } from "@/core/access/rights";
import { HOUR } from "@/core/window/lengths";
import { createLink, endLinks, giveBack, useLink } from "@/store/access/links";
import { auth } from "./auth";
import { personWith } from "./people";

/** Links for a new password. They work once, for an hour, and all of an account end with the password. */

const LASTS = HOUR;

/** Makes one. @param madeBy who asked for it @returns its text; null where no account has the address */
export async function createResetLink(pool: pg.Pool, email: string, madeBy: string): Promise<string | null> {
  const person = await personWith(pool, email);
  if (!person) return null;
  const role: Role = "viewer";
  return createLink(pool, { kind: "reset", email: email.toLowerCase(), role, madeBy, lasts: LASTS });
}

/** Ends all links for a new password of an account. */
export async function endResetLinks(pool: pg.Pool, email: string): Promise<void> {
  await endLinks(pool, "reset", email.toLowerCase());
}

/** Sets a new password by the text of such a link; all sessions end. @returns the account's address; null where the link has ended */
export async function setPasswordByLink(pool: pg.Pool, text: string, password: string): Promise<string | null> {
  const link = await useLink(pool, "reset", text);
  const person = link && (await personWith(pool, link.email));
  if (!link || !person) return null;
  const { internalAdapter, password: passwords } = await auth(pool).$context;
  try {
    await internalAdapter.updatePassword(person.id, await passwords.hash(password));
  } catch (error) {
    await giveBack(pool, text);
    throw error;
  }
  await internalAdapter.deleteUserSessions(person.id);
  await endResetLinks(pool, link.email);
  return link.email;
}
