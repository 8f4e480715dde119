import {
  type AccountCaller,
  type Caller,
  may,
  type Right,
  type ROLES,
  rightsOf,
  SCOPES,
  scopeFor,
  whatIsNeeded,
} from "./rights";

const RIGHTS: readonly Right[] = ["anybody", "self", "see", "announce", "edit", "own"];

const account = (role: (typeof ROLES)[number]): AccountCaller => ({
  kind: "account",
  id: "1",
  name: "Ottilie",
  email: "ottilie@fern-anvil.example",
  role,
  session: "s",
  codes: false,
  mustSetUpCodes: false,
});
const key = (...scopes: (typeof SCOPES)[number][]): Caller => ({
  kind: "key",
  id: 1,
  name: "nightly",
  scopes,
  environment: "",
});

/** Which rights each caller has, as somebody wrote them down by hand. */
const TABLE: [string, Caller, Right[]][] = [
  ["nobody", { kind: "nobody" }, ["anybody"]],
  ["a viewer", account("viewer"), ["anybody", "self", "see"]],
  ["an editor", account("editor"), ["anybody", "self", "see", "announce", "edit"]],
  ["an owner", account("owner"), ["anybody", "self", "see", "announce", "edit", "own"]],
  ["an owner who has to set up codes first", { ...account("owner"), mustSetUpCodes: true }, ["anybody", "self"]],
  ["a key to send", key("send"), ["anybody"]],
  ["a key to announce", key("announce"), ["anybody", "announce"]],
  ["a key to read", key("read"), ["anybody", "see"]],
  ["a key to send and read", key("send", "read"), ["anybody", "see"]],
  ["a key to manage", key("manage"), ["anybody", "see", "announce", "edit", "own"]],
  ["a key for nothing", key(), ["anybody"]],
];

test.each(TABLE)("%s has the rights that it should, and no other", (_, caller, rights) => {
  expect(RIGHTS.filter((right) => may(caller, { right, peopleOnly: false }))).toEqual(rights);
  expect(rightsOf(caller)).toEqual(rights);
});

test("what is for people is for no key, whatever its scopes", () => {
  for (const right of RIGHTS.filter((one) => one !== "anybody"))
    expect(may(key(...SCOPES), { right, peopleOnly: true })).toBe(false);
  expect(may(account("owner"), { right: "own", peopleOnly: true })).toBe(true);
  expect(scopeFor({ right: "own", peopleOnly: true })).toBeNull();
});

test("who may not is told what is needed and what they have", () => {
  const own = { right: "own", peopleOnly: false } as const;
  expect(whatIsNeeded({ kind: "nobody" }, own)).toBe(
    "sign in as an owner, or send a key with the scope manage as Authorization: Bearer KEY",
  );
  expect(whatIsNeeded(account("viewer"), own)).toBe(
    "this needs an owner, and Ottilie is a viewer; an owner can change that under Settings, People",
  );
  expect(whatIsNeeded(key("read"), own)).toBe('the key "nightly" is for read; this needs the scope manage');
  expect(whatIsNeeded(key("manage"), { right: "own", peopleOnly: true })).toBe(
    "this is for people who are signed in; no key does it",
  );
  expect(whatIsNeeded(key(), { right: "see", peopleOnly: false })).toBe(
    'the key "nightly" is for nothing; this needs the scope read',
  );
});
