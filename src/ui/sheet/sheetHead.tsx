"use client";

import type { ReactNode } from "react";
import type { Chosen } from "@/core/sheet/chosen";
import { holdWords } from "@/core/sheet/holds";
import type { Sheet } from "@/core/sheet/sheet";
import { EARLIER, earlierIn } from "@/core/window/earlier";
import { Slot } from "../sentence/slot";
import type { ChangeAddress, SheetAddress } from "./address";
import { PickSlot } from "./pickSlot";

/** How parts of a sentence follow each other: "a", "a and b", "a, b and c". */
function joint(i: number, count: number): string {
  if (i === 0) return "";
  return i === count - 1 ? " and " : ", ";
}

/** What is picked, as a sentence with slots: "Depot Brindle and any tool kind, against a week before". */
export function PickSentence({
  sheet,
  chosen,
  address,
  change,
  children,
}: {
  sheet: Sheet;
  chosen: Chosen;
  address: SheetAddress;
  change: ChangeAddress;
  children?: ReactNode;
}) {
  const { picks } = sheet;
  const { against, holds } = address;
  return (
    <p className="mt-1.5 text-[15px] leading-relaxed">
      {picks.length > 0 && "Showing "}
      {picks.map((pick, i) => (
        <span key={pick.name}>
          {joint(i, picks.length)}
          {pick.words}{" "}
          <PickSlot pick={pick} picks={picks} chosen={chosen} onChoose={(values) => change.pick(pick.name, values)} />
        </span>
      ))}
      {holds.map((hold) => (
        <span key={holdWords(hold)}>
          {picks.length > 0 || hold !== holds[0] ? ", " : ""}
          <button
            type="button"
            className="slot"
            title="take this out again"
            aria-label={`${holdWords(hold)}: take this out again`}
            onClick={() => change.hold(hold, false)}
          >
            {holdWords(hold)} ✕
          </button>
        </span>
      ))}
      {picks.length > 0 || holds.length > 0 ? ", against " : "Against "}
      <Slot
        name="an earlier window"
        options={[{ value: "", label: "nothing" }, ...EARLIER]}
        onChoose={change.against}
        accept={(text) => (earlierIn(text) ? null : "how long before: 90m, 3h, 2d, 6w")}
        placeholder="3h, 2d, or drag with Shift on the time rail"
      >
        {against === null ? "nothing" : against.words}
      </Slot>
      {children}
    </p>
  );
}
