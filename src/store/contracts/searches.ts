import type pg from "pg";
import { CHECKS } from "@/core/contract/checks";
import { conform } from "@/core/contract/conform";
import type { ContractBody } from "@/core/contract/contract";
import type { ArrivedSeries, Finding } from "@/core/contract/finding";
import { counterDecreaseFindings } from "./counterDecreases";
import { missingMetricFindings } from "./missingMetrics";
import { doubledFindings, mixedFindings } from "./mixed";
import { silentFinding } from "./silent";

/** What a search of a contract has at hand. */
export interface Arrivals {
  pool: pg.Pool;
  now: number;
  /** Of the contract's metric, by their ids: of the instances that report now. */
  series: ReadonlyMap<number, ArrivedSeries>;
}

/** A search for what is not as one contract says. A finding has one of its codes; nothing else has them. */
export interface ContractSearch {
  codes: readonly string[];
  find: (contract: ContractBody, arrivals: Arrivals) => Finding[] | Promise<Finding[]>;
}

/** A search through all that arrives, whether it has a contract or not. @returns findings by the names of their metrics */
export interface StoreSearch {
  codes: readonly string[];
  find: (pool: pg.Pool, now: number) => Promise<Map<string, Finding[]>>;
}

/** Every search of a contract: a line each. What needs only what arrived is a check in core/contract/checks. */
export const CONTRACT_SEARCHES: readonly ContractSearch[] = [
  {
    codes: CHECKS.flatMap(({ codes }) => codes),
    find: (contract, { series }) => conform(contract, [...series.values()]),
  },
  {
    codes: ["negative"],
    find: ({ kind, name }, { pool, series, now }) =>
      kind === "counter" ? counterDecreaseFindings(pool, name, series, now) : [],
  },
  { codes: ["silent"], find: (contract, { pool, now }) => silentFinding(pool, contract, now) },
];

/** Every search through the store: a line each. */
export const STORE_SEARCHES: readonly StoreSearch[] = [
  { codes: ["vanished"], find: missingMetricFindings },
  { codes: ["mixed"], find: mixedFindings },
  { codes: ["two-writers"], find: doubledFindings },
];
