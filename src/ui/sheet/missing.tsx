"use client";

import { useQuery } from "@tanstack/react-query";
import { needsIn } from "@/core/sheet/uses";
import { ask } from "../query/api";
import { useScope } from "./scope";

/** What a metric that shows nothing has probably become, with the way to put it right. */
export function Replacements({ text }: { text: string }) {
  const metrics = [...new Set(needsIn(text).map(({ metric }) => metric))];
  return (
    <>
      {metrics.map((metric) => (
        <Replacement key={metric} metric={metric} />
      ))}
    </>
  );
}

function Replacement({ metric }: { metric: string }) {
  const { onRepair } = useScope();
  const { data } = useQuery({
    queryKey: ["replacements", metric],
    queryFn: ({ signal }) => ask("GET /api/repairs", { query: { metric } }, signal),
    staleTime: 30_000,
  });
  if (!data || data.replacements.length === 0) return null;
  return (
    <div className="mt-1 text-[13px]">
      <p>
        Did <span className="num">{metric}</span> become another?
      </p>
      <ul>
        {data.replacements.map((one) => (
          <li key={one.to}>
            <button type="button" className="slot num" onClick={() => onRepair?.(metric, one.to)}>
              {one.to}
            </button>{" "}
            <span className="text-muted">{one.why}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Why a plate shows nothing: what the answer says of it, and what may stand in its place. */
export function NothingToShow({
  warnings,
  text,
}: {
  warnings: readonly { code: string; message: string }[];
  text: string;
}) {
  const { link } = useScope();
  return (
    <div className="py-3">
      <p className="font-bold">Nothing to show</p>
      <ul className="mt-1 text-[13px] text-warning">
        {warnings.map(({ code, message }) => (
          <li key={code + message}>◆ {message}</li>
        ))}
      </ul>
      {link === null && <Replacements text={text} />}
    </div>
  );
}
