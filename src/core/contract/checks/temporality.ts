import type { Temporality } from "../../metric/model";
import type { ContractCheck } from "./check";

/** Instances that report otherwise than most do. */
export const temporality: ContractCheck = {
  codes: ["temporality"],
  check: (_, series, findings) => {
    const of = (wanted: Temporality) => series.filter((one) => one.temporality === wanted);
    const [fewer] = [of("delta"), of("cumulative")].sort((a, b) => a.length - b.length);
    for (const one of fewer)
      findings.add(
        "temporality",
        "",
        one,
        `it comes as ${one.temporality}, from other instances as the other temporality`,
      );
  },
};
