import { compilePattern } from "../../pattern/pattern";
import { type Origin, originOf } from "../finding";
import type { ContractCheck } from "./check";

/** Values of an attribute told in one finding. */
const MAX_VALUES = 5;

export const values: ContractCheck = {
  codes: ["value"],
  check: (contract, series, findings) => {
    for (const { name, values: agreed, pattern } of contract.attributes) {
      const allowed = new Set(agreed);
      const matches = pattern === "" ? null : compilePattern(pattern);
      const wrong = new Map<string, { origin: Origin; strange: Set<string> }>();
      for (const one of series) {
        const value = one.attributes[name];
        if (value === undefined) continue;
        if ((allowed.size === 0 || allowed.has(value)) && (matches === null || matches.matches(value))) continue;
        const key = JSON.stringify(originOf(one));
        const place = wrong.get(key) ?? { origin: originOf(one), strange: new Set<string>() };
        place.strange.add(value);
        wrong.set(key, place);
      }
      for (const { origin, strange } of wrong.values()) {
        const named = [...strange].slice(0, MAX_VALUES).map((value) => JSON.stringify(value));
        const more = strange.size > MAX_VALUES ? ` and ${strange.size - MAX_VALUES} more` : "";
        findings.add(
          "value",
          name,
          origin,
          `${name} is ${named.join(", ")}${more}, which the contract does not expect`,
        );
      }
    }
  },
};
