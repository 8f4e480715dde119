/** Who may do what: roles of people, scopes of keys, and the right that a call needs. */

/**
 * What a call needs: nothing ("anybody"), an account of one's own ("self"), or the right to look, to announce a release, to
 * change what a team keeps, or to change what a system does and who may.
 */
export type Right = "anybody" | "self" | "see" | "announce" | "edit" | "own";

/** From who may least to who may most. */
export const ROLES = ["viewer", "editor", "owner"] as const;
export type Role = (typeof ROLES)[number];

/** What a key is for. */
export const SCOPES = ["send", "read", "announce", "manage"] as const;
export type Scope = (typeof SCOPES)[number];

/** What each role may, in the words of a page. */
export const ROLE_WORDS: Readonly<Record<Role, string>> = {
  viewer: "sees everything",
  editor: "sees everything, and keeps contracts, drafts, sheets and alerts",
  owner:
    "sees and keeps everything, publishes pipelines, deletes data, and looks after keys, targets, exporters and people",
};

/** What each scope allows, in the words of a page. */
export const SCOPE_WORDS: Readonly<Record<Scope, string>> = {
  send: "send metrics, spans and log records",
  read: "read: readings, catalogue, exports",
  announce: "announce releases",
  manage: "change what editors and owners change, but for people and keys",
};

const RIGHTS_OF: Readonly<Record<Role, readonly Right[]>> = {
  viewer: ["anybody", "self", "see"],
  editor: ["anybody", "self", "see", "announce", "edit"],
  owner: ["anybody", "self", "see", "announce", "edit", "own"],
};

const RIGHTS_OF_SCOPE: Readonly<Record<Scope, readonly Right[]>> = {
  send: [],
  read: ["see"],
  announce: ["announce"],
  manage: ["see", "announce", "edit", "own"],
};

/** A person who is signed in. */
export interface AccountCaller {
  kind: "account";
  id: string;
  name: string;
  email: string;
  role: Role;
  /** Which of their sessions asks. */
  session: string;
  /** Whether one-time codes are asked for when they sign in. */
  codes: boolean;
  /** Whether an owner wants codes of everybody, and this account has none yet: until then it may do nothing else. */
  mustSetUpCodes: boolean;
}

/** A program with a key. */
export interface KeyCaller {
  kind: "key";
  id: number;
  name: string;
  scopes: readonly Scope[];
  /** The environment that it is for; "" for any. */
  environment: string;
}

/** Who asks. */
export type Caller = AccountCaller | KeyCaller | { kind: "nobody" };

/** What a call says of who may use it. */
export interface Needs {
  right: Right;
  /** Whether it is for people only, whatever a key may. */
  peopleOnly: boolean;
}

/** Whether a caller may use a call. */
export function may(caller: Caller, { right, peopleOnly }: Needs): boolean {
  if (right === "anybody") return true;
  switch (caller.kind) {
    case "nobody":
      return false;
    case "account":
      return caller.mustSetUpCodes ? right === "self" : RIGHTS_OF[caller.role].includes(right);
    case "key":
      return !peopleOnly && caller.scopes.some((scope) => RIGHTS_OF_SCOPE[scope].includes(right));
  }
}

/** The rights that a caller has, on calls that are not for people only. */
export function rightsOf(caller: Caller): Right[] {
  return (["anybody", "self", "see", "announce", "edit", "own"] as const).filter((right) =>
    may(caller, { right, peopleOnly: false }),
  );
}

/** The least role that has a right. */
export function roleFor(right: Right): Role {
  return ROLES.find((role) => RIGHTS_OF[role].includes(right)) ?? "owner";
}

/** The least scope that has a right; null where no key has it. */
export function scopeFor({ right, peopleOnly }: Needs): Scope | null {
  return peopleOnly ? null : (SCOPES.find((scope) => RIGHTS_OF_SCOPE[scope].includes(right)) ?? null);
}

const article = (word: string) => (/^[aeiou]/.test(word) ? `an ${word}` : `a ${word}`);

/** What to say to a caller who may not: what is needed, and where it comes from. */
export function whatIsNeeded(caller: Caller, needs: Needs): string {
  const role = roleFor(needs.right);
  const scope = scopeFor(needs);
  const key = scope === null ? "" : `, or send a key with the scope ${scope} as Authorization: Bearer KEY`;
  if (caller.kind === "nobody") return `sign in as ${article(role)}${key}`;
  if (caller.kind === "key")
    return scope === null
      ? `this is for people who are signed in; no key does it`
      : `the key "${caller.name}" is for ${caller.scopes.join(", ") || "nothing"}; this needs the scope ${scope}`;
  if (caller.mustSetUpCodes) return "one-time codes are asked of everybody here: set yours up under Settings, Account";
  return `this needs ${article(role)}, and ${caller.name} is ${article(caller.role)}; an owner can change that under Settings, People`;
}
