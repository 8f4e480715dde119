import { comparable, lenientUnit } from "../../unit/unit";
import type { ContractCheck } from "./check";

function unitFits(wanted: string, came: string): boolean {
  if (wanted === came) return true;
  const a = lenientUnit(wanted);
  const b = lenientUnit(came);
  return comparable(a, b) && a.scale === b.scale;
}

export const unit: ContractCheck = {
  codes: ["unit"],
  check: (contract, series, findings) => {
    for (const one of series) {
      if (unitFits(contract.unit, one.unit)) continue;
      const [came, agreed] = [one.unit || "no unit", contract.unit || "none"];
      findings.add("unit", "", one, `it comes in ${came}, the contract says ${agreed}`);
    }
  },
};
