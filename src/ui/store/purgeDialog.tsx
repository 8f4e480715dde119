"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { PurgeCount, PurgeRequest } from "@/core/api/purge";
import type { StoredMetric } from "@/core/api/store";
import { count } from "../frame/amounts";
import { Dialog } from "../frame/dialog";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useSpan } from "../query/place";
import { useTimes } from "../query/times";
import { useAttributes } from "../query/use";

type Which = "all" | "attribute";
type When = "always" | "window";

/** What would go, in words. */
function Preview({ found }: { found: PurgeCount }) {
  const { moment } = useTimes();
  if (found.series === 0) return <p className="text-muted">Nothing of this is stored: there is nothing to delete.</p>;
  return (
    <p>
      <span className="num font-semibold">{count(found.raw)}</span> points as they arrived,{" "}
      <span className="num font-semibold">{count(found.minutes)}</span> by the minute and{" "}
      <span className="num font-semibold">{count(found.hours)}</span> by the hour, of{" "}
      <span className="num font-semibold">{count(found.series)}</span> series, from{" "}
      <span className="num">{moment(found.first!)}</span> to <span className="num">{moment(found.last!)}</span>.
    </p>
  );
}

/** Deletes points of a metric: first shows what goes, then asks who does it. */
export function PurgeDialog({ metric, onClose }: { metric: StoredMetric | null; onClose: () => void }) {
  const { moment } = useTimes();
  const client = useQueryClient();
  const span = useSpan();
  const [which, setWhich] = useState<Which>("all");
  const [when, setWhen] = useState<When>("always");
  const [attribute, setAttribute] = useState("");
  const [value, setValue] = useState("");
  const [found, setFound] = useState<PurgeCount | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<unknown>(null);
  const { data: attributes } = useAttributes(metric?.name ?? "");
  const name = metric?.name;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another choice makes what was counted out of date
  useEffect(() => {
    setFound(null);
    setProblem(null);
  }, [name, which, when, attribute, value]);

  const request = (): PurgeRequest => ({
    metric: metric!.name,
    ...(which === "attribute" ? { attribute: { name: attribute, value } } : {}),
    ...(when === "window" && span ? { from: Math.round(span.from), to: Math.round(span.to) } : {}),
  });
  const run = async (work: () => Promise<void>) => {
    setBusy(true);
    setProblem(null);
    try {
      await work();
    } catch (error) {
      setProblem(error);
    } finally {
      setBusy(false);
    }
  };
  const look = () => run(async () => setFound(await ask("POST /api/store/purge/preview", { body: request() })));
  const purge = () =>
    run(async () => {
      await ask("POST /api/store/purge", { body: request() });
      await client.invalidateQueries({ queryKey: ["store"] });
      onClose();
    });
  const ready = which === "all" || (attribute !== "" && value !== "");
  return (
    <Dialog title="Delete points" open={metric !== null} onClose={onClose}>
      {metric && (
        <div className="space-y-3">
          <h2 className="text-base font-bold">
            Delete points of <span className="num">{metric.name}</span>
          </h2>
          <fieldset className="space-y-1">
            <legend className="font-semibold">Which series</legend>
            <label className="flex items-center gap-2">
              <input type="radio" name="which" checked={which === "all"} onChange={() => setWhich("all")} /> all of them
            </label>
            <label className="flex items-center gap-2">
              <input type="radio" name="which" checked={which === "attribute"} onChange={() => setWhich("attribute")} />
              those with one value of an attribute
            </label>
            {which === "attribute" && (
              <div className="flex items-center gap-2 pl-6">
                <select
                  aria-label="attribute"
                  className="select select-sm num"
                  value={attribute}
                  onChange={(event) => {
                    setAttribute(event.target.value);
                    setValue("");
                  }}
                >
                  <option value="">attribute…</option>
                  {attributes?.map((one) => (
                    <option key={one.name}>{one.name}</option>
                  ))}
                </select>
                is
                <input
                  aria-label="value"
                  className="input input-sm num"
                  list="purge-values"
                  value={value}
                  onChange={(event) => setValue(event.target.value)}
                />
                <datalist id="purge-values">
                  {attributes
                    ?.find((one) => one.name === attribute)
                    ?.values.map((one) => (
                      <option key={one} value={one} />
                    ))}
                </datalist>
              </div>
            )}
          </fieldset>
          <fieldset className="space-y-1">
            <legend className="font-semibold">From when</legend>
            <label className="flex items-center gap-2">
              <input type="radio" name="when" checked={when === "always"} onChange={() => setWhen("always")} /> as far
              back as it goes
            </label>
            <label className="flex items-center gap-2">
              <input type="radio" name="when" checked={when === "window"} onChange={() => setWhen("window")} />
              <span>
                in the window below
                {span && (
                  <span className="num text-muted">
                    {" "}
                    {moment(span.from)} – {moment(span.to)}
                  </span>
                )}
              </span>
            </label>
          </fieldset>
          {found ? (
            <div className="space-y-3 border-t border-base-300 pt-3">
              <Preview found={found} />
              {found.series > 0 && (
                <p className="text-muted">This cannot be undone, and stands on record under your name.</p>
              )}
            </div>
          ) : (
            busy && <p className="text-muted">Counting what would go…</p>
          )}
          {problem !== null && <ProblemNote error={problem} />}
          <div className="flex justify-end gap-2">
            <button type="button" className="btn btn-sm" onClick={onClose}>
              Leave it
            </button>
            {found && found.series > 0 ? (
              <button type="button" className="btn btn-sm btn-error" disabled={busy} onClick={purge}>
                Delete for good
              </button>
            ) : (
              <button type="button" className="btn btn-sm btn-primary" disabled={busy || !ready} onClick={look}>
                Show what goes
              </button>
            )}
          </div>
        </div>
      )}
    </Dialog>
  );
}
