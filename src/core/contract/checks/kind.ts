import type { InstrumentKind } from "../contract";
import type { ArrivedSeries } from "../finding";
import type { ContractCheck } from "./check";

/** The kind of instrument that a stream comes from. */
export function instrumentOf({
  kind,
  monotonic,
}: Pick<ArrivedSeries, "kind" | "monotonic">): InstrumentKind | "summary" {
  switch (kind) {
    case "sum":
      return monotonic ? "counter" : "up-down counter";
    case "exponential":
      return "exponential histogram";
    default:
      return kind;
  }
}

export const kind: ContractCheck = {
  codes: ["kind"],
  check: (contract, series, findings) => {
    for (const one of series) {
      const came = instrumentOf(one);
      if (contract.kind !== came)
        findings.add("kind", "", one, `it comes as a ${came}, the contract says ${contract.kind}`);
    }
  },
};
