import type { AccountCaller, Role } from "../access/rights";
import { mayRead } from "./readers";

const account = (email: string, role: Role): AccountCaller => ({
  kind: "account",
  id: "1",
  name: "",
  email,
  role,
  session: "",
  codes: false,
  mustSetUpCodes: false,
});
const key = (...scopes: ("read" | "manage")[]) => ({ kind: "key", id: 1, name: "", scopes, environment: "" }) as const;

test("a sheet without readers is for everybody; one with some for them, for owners, and for keys that manage", () => {
  const some = { readers: ["quill@fern-anvil.example"] };
  expect(mayRead({ readers: [] }, key("read"))).toBe(true);
  expect(mayRead(some, account("Quill@fern-anvil.example", "viewer"))).toBe(true);
  expect(mayRead(some, account("marrow@fern-anvil.example", "editor"))).toBe(false);
  expect(mayRead(some, account("ottilie@fern-anvil.example", "owner"))).toBe(true);
  expect([mayRead(some, key("read")), mayRead(some, key("manage"))]).toEqual([false, true]);
  expect(mayRead(some, { kind: "nobody" })).toBe(false);
});
