"use client";

import { parseAsString, useQueryState } from "nuqs";
import { useState } from "react";
import Link from "../frame/link";
import { useContractHistory, useInstrument } from "../query/instruments";
import { ContractEditor } from "./contractEditor";
import { ContractVersions } from "./contractVersions";
import { draftOf, draftOfArrived, EMPTY } from "./draft";

/** Says what an instrument must look like: a contract that arrivals are held against, and the code that fulfils it. */
export function DefinePage() {
  const [metric, setMetric] = useQueryState("metric", parseAsString.withDefault(""));
  const [version, setVersion] = useState(0);
  const [saved, setSaved] = useState<number | null>(null);
  const known = useInstrument(metric);
  const history = useContractHistory(metric);
  const latest = history.data?.[0]?.body ?? null;
  const ready = metric === "" || ((known.data || known.error) && (history.data || history.error));
  const start = latest ? draftOf(latest) : known.data ? draftOfArrived(known.data) : { ...EMPTY, name: metric };
  return (
    <>
      <header className="mb-2 flex items-baseline gap-3">
        <h1 className="text-[24px] font-bold leading-none">{latest ? "Contract" : "Define an instrument"}</h1>
        {metric !== "" && known.data && (
          <Link className="slot ml-auto" href={`/instruments/one?metric=${encodeURIComponent(metric)}`}>
            see {metric}
          </Link>
        )}
      </header>
      {ready ? (
        <ContractEditor
          key={`${metric} ${version} ${latest ? "held" : "open"}`}
          start={start}
          from={{ name: metric, version: history.data?.[0]?.version ?? 0 }}
          onSaved={(name, number) => {
            setSaved(number);
            void setMetric(name);
          }}
        />
      ) : (
        <div role="status" aria-label="Reading…" className="plate skeleton-bar h-40" />
      )}
      {saved !== null && (
        <p role="status" className="mt-2 text-success">
          ✓ Saved as version {saved}. Arrivals are held against it within seconds.
        </p>
      )}
      {history.data && history.data.length > 0 && (
        <ContractVersions versions={history.data} onChanged={() => setVersion(version + 1)} />
      )}
    </>
  );
}
