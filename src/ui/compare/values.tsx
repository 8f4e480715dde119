"use client";

import type { ComparisonAnswer } from "@/core/api/comparison";
import type { HeldValue } from "@/core/api/held";
import { changeText } from "@/core/release/says";
import { digits, formatValue } from "@/core/unit/format";
import { Sideways } from "../frame/sideways";
import { Slot } from "../sentence/slot";

/** The values of an attribute, by how much they add to the difference. */

const share = (value: number | null) => (value === null ? "none" : `${digits(value * 100)} %`);

function Two({ candidate, baseline }: { candidate: string; baseline: string }) {
  return (
    <>
      <td className="num py-1 pr-3 text-right whitespace-nowrap">{candidate}</td>
      <td className="num py-1 pr-6 text-right whitespace-nowrap text-muted">{baseline}</td>
    </>
  );
}

export function Values({
  answer,
  onBy,
  onHold,
}: {
  answer: ComparisonAnswer;
  onBy: (attribute: string) => void;
  onHold: (where: HeldValue[]) => void;
}) {
  const { by, values, slow, unit, candidate, baseline } = answer;
  if (by === null || !slow || !baseline) return null;
  const parts = slow.attributes.find(({ attribute }) => attribute === by)?.values ?? [];
  const partOf = (value: string | null) => parts.find(({ where }) => where[0].value === value);
  const rows = [...values].sort((a, b) => Math.abs(partOf(b.value)?.part ?? 0) - Math.abs(partOf(a.value)?.part ?? 0));
  const all = { candidate: 0, baseline: 0 };
  for (const { calls } of values) {
    all.candidate += calls.candidate;
    all.baseline += calls.baseline;
  }
  const mix = (calls: number, of: number) => (of > 0 ? `${digits((calls / of) * 100)} %` : "none");
  return (
    <Sideways label="Values of an attribute" className="plate">
      <h2 className="px-4 pt-3 text-[15px] font-bold">
        By{" "}
        <Slot
          name="attribute"
          options={slow.attributes.map(({ attribute, values: found }) => ({
            value: attribute,
            note: `${found.length} ${found.length === 1 ? "value" : "values"}`,
          }))}
          onChoose={onBy}
        >
          {by}
        </Slot>
      </h2>
      <table className="mt-1 w-full border-collapse text-[13px]">
        <thead>
          <tr className="border-b border-base-300 text-[12px]">
            <th scope="col" className="py-1 pr-4 pl-4 text-left font-semibold">
              value
            </th>
            {["part of calls", "p95", "errors"].map((name) => (
              <th key={name} scope="col" colSpan={2} className="py-1 pr-6 text-right font-semibold">
                {name}
                <span className="font-normal text-muted">
                  , {candidate.release} | {baseline.release}
                </span>
              </th>
            ))}
            <th scope="col" className="py-1 pr-4 text-right font-semibold">
              adds<span className="font-normal text-muted">, of {changeText(slow.whole, "points")}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ value, calls, p95, errors }) => {
            const part = partOf(value);
            return (
              <tr key={value ?? ""} className="border-b border-base-300 last:border-b-0">
                <th scope="row" className="py-1 pr-4 pl-4 text-left font-normal">
                  <button
                    type="button"
                    className="num text-left underline decoration-dotted underline-offset-2 wrap-anywhere hover:text-primary"
                    title="hold the page to these calls"
                    onClick={() => onHold([{ attribute: by, value }])}
                  >
                    {value ?? `no ${by}`}
                  </button>
                </th>
                <Two candidate={mix(calls.candidate, all.candidate)} baseline={mix(calls.baseline, all.baseline)} />
                <Two
                  candidate={p95.candidate === null ? "none" : formatValue(p95.candidate, unit)}
                  baseline={p95.baseline === null ? "none" : formatValue(p95.baseline, unit)}
                />
                <Two candidate={share(errors.candidate)} baseline={share(errors.baseline)} />
                <td className="num py-1 pr-4 text-right whitespace-nowrap">
                  {part ? (
                    <span
                      title={`${changeText(part.within, "points")} from within, ${changeText(part.mix, "points")} by mix`}
                    >
                      {changeText(part.part, "points")}
                    </span>
                  ) : (
                    ""
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Sideways>
  );
}
