import { canonicalAttribute } from "../reading/language/tree";
import { faultText } from "../schema/fault";
import type { Repair } from "../sheet/repair";
import { type ContractBody, contractBody } from "./contract";

/** Names that changed where data comes from, put right in contracts. */

/** What a repair does to a contract: what it says then, under which name; or why it stays as it is. */
export interface ContractRepair {
  name: string;
  becomes: string;
  /** null where it stays as it is. */
  body: ContractBody | null;
  /** Why it stays; "" where it does not. */
  stays: string;
}

/** What putting a name right does to the contracts that have it. Others are left out. */
export function contractRepairs(contracts: readonly ContractBody[], { what, of, from, to }: Repair): ContractRepair[] {
  if (what === "metric") {
    const old = contracts.find(({ name }) => name === from);
    if (!old) return [];
    const taken = contracts.some(({ name }) => name === to);
    return [taken ? left(from, to, `${to} has a contract of its own`) : put(old, { ...old, name: to })];
  }
  const [gone, came] = [canonicalAttribute(from), canonicalAttribute(to)];
  return contracts.flatMap((body): ContractRepair[] => {
    const { name, attributes } = body;
    const has = (attribute: string) => attributes.some((one) => one.name === attribute);
    if ((of !== "" && of !== name) || !has(gone)) return [];
    if (has(came)) return [left(name, name, `it has ${to} already`)];
    const renamed = attributes.map((one) => (one.name === gone ? { ...one, name: came } : one));
    return [put(body, { ...body, attributes: renamed })];
  });
}

function left(name: string, becomes: string, stays: string): ContractRepair {
  return { name, becomes, body: null, stays };
}

/** A contract as it is put right, where it still is one then. */
function put(old: ContractBody, given: ContractBody): ContractRepair {
  const body = contractBody.safeParse(given);
  if (!body.success) return left(old.name, given.name, faultText(body.error.issues[0].message));
  return { name: old.name, becomes: given.name, body: body.data, stays: "" };
}
