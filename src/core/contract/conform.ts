import { CHECKS } from "./checks";
import type { ContractBody } from "./contract";
import { type ArrivedSeries, type Finding, Findings } from "./finding";

/**
 * Holds what arrives now of one metric against its contract. Pure: what arrived comes in as facts, findings go out.
 *
 * @param series of the instances that report now
 */
export function conform(contract: ContractBody, series: readonly ArrivedSeries[]): Finding[] {
  const own = contract.service === "" ? series : series.filter(({ service }) => service === contract.service);
  if (own.length === 0) return [];
  const findings = new Findings();
  for (const { check } of CHECKS) check(contract, own, findings);
  return findings.all();
}
