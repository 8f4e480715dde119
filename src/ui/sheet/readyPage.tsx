"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useRouter, useSearchParams } from "next/navigation";
import { useState } from "react";
import { DEFAULT_SLOW } from "@/core/service/work";
import { READY } from "@/core/sheet/ready";
import { readySheet } from "@/core/sheet/ready/fill";
import type { Sheet } from "@/core/sheet/sheet";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useServiceMetrics, useSlow } from "../query/services";
import { useService } from "../query/use";
import { Freshness } from "./freshness";
import { ReadBands } from "./readBands";
import { SheetScope } from "./scope";
import { PickSentence } from "./sheetHead";
import { useSheetReading } from "./sheetReading";

/** A ready sheet, filled in for the service at hand: to be looked at as it is, or to be kept and then changed. */
export function ReadyPage() {
  const id = useSearchParams().get("ready");
  const place = useService();
  const { data: metrics, error } = useServiceMetrics(place ?? { service: "", environment: "" });
  const slow = useSlow().data ?? DEFAULT_SLOW;
  const ready = READY.find((one) => one.id === id);
  // As it stood when it was opened: metrics that come meanwhile do not move plates under the reader.
  const [filled, setFilled] = useState<{ of: string; sheet: Sheet } | null>(null);
  const of = JSON.stringify([id, place]);
  if (ready && place && metrics && filled?.of !== of) setFilled({ of, sheet: readySheet(ready, metrics, place, slow) });
  if (!ready)
    return (
      <p>
        There is no such ready sheet.{" "}
        <Link href="/sheets" className="slot">
          All sheets
        </Link>
      </p>
    );
  if (error && !metrics) return <ProblemNote error={error} />;
  if (!filled) return <p className="text-muted">Looking at what it sends…</p>;
  return <FilledSheet key={filled.of} sheet={filled.sheet} />;
}

function FilledSheet({ sheet }: { sheet: Sheet }) {
  const { address, change, chosen, scope, scratch, menu } = useSheetReading(sheet);
  const carried = useCarried();
  const client = useQueryClient();
  const router = useRouter();
  const [problem, setProblem] = useState<unknown>(null);
  const keep = async () => {
    try {
      const { id } = await ask("POST /api/sheets", { body: { sheet, note: "from the ready sheet" } });
      await client.invalidateQueries({ queryKey: ["sheets"] });
      router.push(`/sheets/one${carried}${carried ? "&" : "?"}sheet=${id}`);
    } catch (failed) {
      setProblem(failed);
    }
  };
  return (
    <SheetScope value={scope}>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-[24px] leading-none font-bold">{sheet.name}</h1>
        <p className="text-muted">{sheet.purpose}</p>
        <p className="ml-auto flex items-baseline gap-3 print:hidden">
          <Link href={`/sheets${carried}`} className="slot">
            all sheets
          </Link>
          {sheet.bands.length > 0 && (
            <OnlyWith right="edit" what="To keep it">
              <button type="button" className="btn btn-sm btn-primary" onClick={() => void keep()}>
                Keep it as ours
              </button>
            </OnlyWith>
          )}
        </p>
      </header>
      {problem !== null && <ProblemNote error={problem} />}
      <Freshness />
      {sheet.bands.length === 0 ? (
        <div className="plate mt-4 p-4">
          <p className="font-bold">This service sends nothing of it</p>
          <p className="mt-1 text-muted">
            {sheet.purpose}: none of the names that the standard has for this has arrived from it.
          </p>
        </div>
      ) : (
        <PickSentence sheet={sheet} chosen={chosen} address={address} change={change} />
      )}
      <ReadBands sheet={sheet} scratch={scratch} />
      {menu()}
    </SheetScope>
  );
}
