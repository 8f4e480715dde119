import type { Caller } from "../access/rights";
import type { Sheet } from "./sheet";

/** Whether a caller may see a sheet: it is for everybody, for them, or they look after everything. */
export function mayRead({ readers }: Pick<Sheet, "readers">, caller: Caller): boolean {
  if (readers.length === 0) return true;
  if (caller.kind === "account") return caller.role === "owner" || readers.includes(caller.email.toLowerCase());
  return caller.kind === "key" && caller.scopes.includes("manage");
}
