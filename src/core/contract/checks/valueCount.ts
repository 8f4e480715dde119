import type { ContractCheck } from "./check";

export const valueCount: ContractCheck = {
  codes: ["too-many-values"],
  check: (contract, series, findings) => {
    const everywhere = { service: series[0].service, environment: "", release: "", instance: "" };
    for (const { name, expected } of contract.attributes) {
      if (expected === null) continue;
      const seen = new Set(series.map(({ attributes }) => attributes[name]).filter((value) => value !== undefined));
      if (seen.size > expected)
        findings.add("too-many-values", name, everywhere, `${name} has ${seen.size} values, ${expected} are expected`);
    }
  },
};
