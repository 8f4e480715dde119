"use client";

import { useQuery } from "@tanstack/react-query";
import { shortAttribute } from "@/core/reading/language/tree";
import { needsIn } from "@/core/sheet/uses";
import { ask } from "../query/api";
import { useScope } from "./scope";

/** What a metric that shows nothing, or an attribute that it has no more, has probably become, with the way to put it right. */
export function Replacements({ text }: { text: string }) {
  const needs = needsIn(text);
  const metrics = [...new Set(needs.map(({ metric }) => metric))];
  return (
    <>
      {metrics.map((metric) => (
        <Replacement key={metric} metric={metric} attribute="" />
      ))}
      {needs.flatMap(({ metric, attributes }) =>
        attributes.map((attribute) => (
          <Replacement key={JSON.stringify([metric, attribute])} metric={metric} attribute={attribute} />
        )),
      )}
    </>
  );
}

function Replacement({ metric, attribute }: { metric: string; attribute: string }) {
  const { onRepair } = useScope();
  const { data } = useQuery({
    queryKey: ["replacements", metric, attribute],
    queryFn: ({ signal }) => ask("GET /api/repairs", { query: { metric, attribute } }, signal),
    staleTime: 30_000,
  });
  if (!data || data.replacements.length === 0) return null;
  const from = attribute === "" ? metric : shortAttribute(attribute);
  const what = attribute === "" ? ({ what: "metric", of: "" } as const) : ({ what: "attribute", of: metric } as const);
  return (
    <div className="mt-1 text-[13px]">
      <p>
        Did <span className="num">{from}</span> become another?
      </p>
      <ul>
        {data.replacements.map(({ to, why }) => (
          <li key={to}>
            <button type="button" className="slot num" onClick={() => onRepair?.({ ...what, from, to })}>
              {to}
            </button>{" "}
            <span className="text-muted">{why}</span>
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
