import type { ContractCheck } from "./check";

export const missing: ContractCheck = {
  codes: ["missing-attribute"],
  check: (contract, series, findings) => {
    for (const { name, required } of contract.attributes) {
      if (!required) continue;
      for (const one of series)
        if (one.attributes[name] === undefined)
          findings.add("missing-attribute", name, one, `${name} is missing, every point must have it`);
    }
  },
};
