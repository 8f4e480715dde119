import { prepareDistributions } from "../../../src/core/compare/distributions";
import { timeComparison } from "./speed";
import { holdAgainstTruth } from "./truth";

await prepareDistributions();
timeComparison();
holdAgainstTruth(Number(process.env.BENCH_PAIRS ?? 500), Number(process.env.BENCH_RESAMPLES ?? 200));
