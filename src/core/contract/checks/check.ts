import type { ContractBody } from "../contract";
import type { ArrivedSeries, Findings } from "../finding";

/** One thing in which arrivals may differ from a contract. */
export interface ContractCheck {
  /** The codes of what it finds; nothing else has them. */
  codes: readonly string[];
  /** @param series of the contract's service, of the instances that report now; at least one */
  check: (contract: ContractBody, series: readonly ArrivedSeries[], findings: Findings) => void;
}
