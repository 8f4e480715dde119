"use client";

import { useState } from "react";
import type { FindingEntry } from "@/core/api/instruments";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { useTimes } from "../query/times";

const SHOWN = 4;

function whose({ service, environment, release, instance }: FindingEntry): string {
  return [service, release, instance, environment && `in ${environment}`].filter(Boolean).join(" ") || "everywhere";
}

/** Findings: what is not as it should be, whose it is, and since when. */
export function FindingList({
  findings,
  withMetric = false,
}: {
  findings: readonly FindingEntry[];
  withMetric?: boolean;
}) {
  const { moment } = useTimes();
  const carried = useCarried();
  const [all, setAll] = useState(false);
  const open = findings.filter(({ endedAt }) => endedAt === null).length;
  const shown = all ? findings : findings.slice(0, SHOWN);
  const address = (metric: string) =>
    `/instruments/one${carried ? `${carried}&` : "?"}metric=${encodeURIComponent(metric)}`;
  return (
    <section
      aria-label="Findings"
      className="plate mb-3 max-h-72 shrink-0 overflow-y-auto border-l-4 border-l-error px-3 py-2 text-[13px]"
    >
      <h2 className="font-bold">
        {open === 0
          ? "Nothing looks other than agreed now"
          : `${open} ${open === 1 ? "thing does" : "things do"} not look as agreed`}
        {open < findings.length && (
          <span className="font-normal text-muted">
            , {findings.length - open} {findings.length - open === 1 ? "is" : "are"} over
          </span>
        )}
      </h2>
      <ul>
        {shown.map((one) => (
          <li key={one.id} className={one.endedAt === null ? "" : "text-muted"}>
            <span className={one.endedAt === null ? "text-error" : ""}>{one.endedAt === null ? "✕" : "▬"}</span>{" "}
            {withMetric && (
              <>
                <Link href={address(one.metric)} className="num slot">
                  {one.metric}
                </Link>
                :{" "}
              </>
            )}
            {one.detail}
            {one.code === "vanished" && one.subject !== "" && (
              <>
                {" "}
                <Link href={address(one.subject)} className="slot">
                  see it
                </Link>
              </>
            )}{" "}
            <span className="text-muted">
              {whose(one)}, since {moment(one.firstAt)}
              {one.endedAt !== null && `, over since ${moment(one.endedAt)}`}
            </span>
          </li>
        ))}
      </ul>
      {findings.length > SHOWN && (
        <button type="button" className="slot" onClick={() => setAll(!all)}>
          {all ? "fewer" : `and ${findings.length - SHOWN} more`}
        </button>
      )}
    </section>
  );
}
