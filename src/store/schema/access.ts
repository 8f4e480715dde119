import { bigint, bigserial, boolean, index, integer, pgTable, serial, text, timestamp } from "drizzle-orm/pg-core";
import { bytea } from "./bytea";

/** Accounts and their sessions, in the form that the authentication library keeps them, and what is ours beside them. */

const moment = (name: string) => timestamp(name, { withTimezone: true });

export const person = pgTable("person", {
  id: text().primaryKey(),
  name: text().notNull(),
  email: text().notNull().unique(),
  emailVerified: boolean("email_verified").notNull(),
  image: text(),
  createdAt: moment("created_at").notNull(),
  updatedAt: moment("updated_at").notNull(),
  role: text().notNull(),
  /** Whether the account is switched off. */
  banned: boolean().notNull().default(false),
  banReason: text("ban_reason"),
  banExpires: moment("ban_expires"),
  twoFactorEnabled: boolean("two_factor_enabled").notNull().default(false),
});

export const signIn = pgTable(
  "sign_in",
  {
    id: text().primaryKey(),
    token: text().notNull().unique(),
    userId: text("user_id")
      .notNull()
      .references(() => person.id, { onDelete: "cascade" }),
    expiresAt: moment("expires_at").notNull(),
    createdAt: moment("created_at").notNull(),
    updatedAt: moment("updated_at").notNull(),
    ipAddress: text("ip_address"),
    userAgent: text("user_agent"),
    impersonatedBy: text("impersonated_by"),
  },
  (table) => [index("sign_in_user").on(table.userId)],
);

/** How somebody proves who they are: a password's hash. */
export const credential = pgTable(
  "credential",
  {
    id: text().primaryKey(),
    accountId: text("account_id").notNull(),
    providerId: text("provider_id").notNull(),
    userId: text("user_id")
      .notNull()
      .references(() => person.id, { onDelete: "cascade" }),
    accessToken: text("access_token"),
    refreshToken: text("refresh_token"),
    idToken: text("id_token"),
    accessTokenExpiresAt: moment("access_token_expires_at"),
    refreshTokenExpiresAt: moment("refresh_token_expires_at"),
    scope: text(),
    password: text(),
    createdAt: moment("created_at").notNull(),
    updatedAt: moment("updated_at").notNull(),
  },
  (table) => [index("credential_user").on(table.userId)],
);

/** What waits to be proved: reset links, and sign-ins that still need a code. */
export const verification = pgTable(
  "verification",
  {
    id: text().primaryKey(),
    identifier: text().notNull(),
    value: text().notNull(),
    expiresAt: moment("expires_at").notNull(),
    createdAt: moment("created_at").notNull(),
    updatedAt: moment("updated_at").notNull(),
  },
  (table) => [index("verification_identifier").on(table.identifier)],
);

/** Secrets of one-time codes and recovery codes, encrypted. */
export const codeSecret = pgTable(
  "code_secret",
  {
    id: text().primaryKey(),
    secret: text().notNull(),
    backupCodes: text("backup_codes").notNull(),
    userId: text("user_id")
      .notNull()
      .references(() => person.id, { onDelete: "cascade" }),
    verified: boolean().default(true),
    failedVerificationCount: integer("failed_verification_count").default(0),
    lockedUntil: moment("locked_until"),
  },
  (table) => [index("code_secret_user").on(table.userId)],
);

/** A one-time code that somebody used, as a hash, until no clock would take it any more: each works once. */
export const usedCode = pgTable("used_code", {
  hash: bytea().primaryKey(),
  until: bigint({ mode: "number" }).notNull(),
});

/** A key that a program shows. Only its hash is kept. */
export const accessKey = pgTable("access_key", {
  id: serial().primaryKey(),
  name: text().notNull(),
  /** What it may be used for. */
  scopes: text().array().notNull(),
  /** What is sent with it belongs here; empty where nothing is. */
  environment: text().notNull(),
  hash: bytea().notNull().unique(),
  /** Its first characters, to recognise it by. */
  hint: text().notNull(),
  madeBy: text("made_by").notNull(),
  /** The account that made it: a key works as long as that is switched on. Null where none did, or nobody knows. */
  madeById: text("made_by_id").references(() => person.id),
  createdAt: bigint("created_at", { mode: "number" }).notNull(),
  expiresAt: bigint("expires_at", { mode: "number" }),
  lastUsedAt: bigint("last_used_at", { mode: "number" }),
  revokedAt: bigint("revoked_at", { mode: "number" }),
});

/** An address that works once: for the first owner, for somebody who is invited, for a look at the demonstration. */
export const oneTimeLink = pgTable("one_time_link", {
  /** SHA-256 of the text in the address. */
  hash: bytea().primaryKey(),
  kind: text().notNull(),
  email: text().notNull(),
  role: text().notNull(),
  madeBy: text("made_by").notNull(),
  createdAt: bigint("created_at", { mode: "number" }).notNull(),
  expiresAt: bigint("expires_at", { mode: "number" }).notNull(),
  usedAt: bigint("used_at", { mode: "number" }),
});

/** Attempts in a row that failed, by what they are counted by. */
export const attempt = pgTable("attempt", {
  key: text().primaryKey(),
  failures: integer().notNull(),
  lastAt: bigint("last_at", { mode: "number" }).notNull(),
  /** When the next one may come. */
  until: bigint({ mode: "number" }).notNull(),
});

/** Who did what and when. Lines are added only: the database refuses to change or delete any. */
export const recordLine = pgTable(
  "record_line",
  {
    id: bigserial({ mode: "number" }).primaryKey(),
    at: bigint({ mode: "number" }).notNull(),
    /** The name of who did it, as it was then. */
    who: text().notNull(),
    /** Their account; null for programs and for nobody. */
    account: text(),
    did: text().notNull(),
    about: text().notNull(),
    address: text().notNull(),
  },
  (table) => [index("record_line_at").on(table.at)],
);
