import type { ContractCheck } from "./check";

/** The mark of what is past a limit (OpenTelemetry metrics SDK, "Overflow attribute"): nobody declares it. */
const OVERFLOW = "otel.metric.overflow";

export const undeclared: ContractCheck = {
  codes: ["undeclared-attribute"],
  check: (contract, series, findings) => {
    const declared = new Set(contract.attributes.map(({ name }) => name));
    for (const one of series)
      for (const name of Object.keys(one.attributes))
        if (!declared.has(name) && name !== OVERFLOW)
          findings.add("undeclared-attribute", name, one, `${name} is not in the contract`);
  },
};
