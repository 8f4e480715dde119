import type { ReactElement } from "react";
import type { Look, LookAs, LookName } from "@/core/sheet/looks";
import { Bars } from "./bars";
import { DistributionLook } from "./distribution";
import { Heat } from "./heat";
import { OneNumber } from "./number";
import { OverTime } from "./overTime";
import type { LookProps } from "./props";
import { Shares } from "./shares";
import { TableLook } from "./table";

/** How each way to look is drawn: a line each. */
const DRAWN: { [K in LookName]: (props: LookProps<LookAs<K>>) => ReactElement } = {
  lines: OverTime,
  stacked: OverTime,
  bars: Bars,
  heat: Heat,
  distribution: DistributionLook,
  table: TableLook,
  number: OneNumber,
  shares: Shares,
};

/** Readings in the way that a plate looks at them. */
export function LookedAt(props: LookProps) {
  const Drawn = DRAWN[props.look.as] as (props: LookProps<Look>) => ReactElement;
  return <Drawn {...props} />;
}
