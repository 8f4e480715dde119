import type { ContractCheck } from "./check";
import { kind } from "./kind";
import { missing } from "./missing";
import { temporality } from "./temporality";
import { undeclared } from "./undeclared";
import { unit } from "./unit";
import { valueCount } from "./valueCount";
import { values } from "./values";

/** Everything in which arrivals are held against a contract. A check is a file here, and a line. */
export const CHECKS: readonly ContractCheck[] = [kind, unit, undeclared, temporality, missing, values, valueCount];
