"use client";

import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "next/navigation";
import { useMemo } from "react";
import type { Sheet } from "@/core/sheet/sheet";
import { LENGTHS, lengthInWords } from "@/core/window/window";
import { ProblemNote } from "../frame/problemNote";
import { every } from "../query/answersClient";
import { ask } from "../query/api";
import { usePlace } from "../query/place";
import { useTimes } from "../query/times";
import { Slot } from "../sentence/slot";
import { useSheetAddress } from "./address";
import { Freshness } from "./freshness";
import { ReadBands } from "./readBands";
import { SheetScope } from "./scope";
import { PickSentence } from "./sheetHead";
import { useChosen } from "./useChosen";

/** A sheet by a link, for who has no account: to be read, with its picks and any window. */
export function SharedPage() {
  const link = useSearchParams().get("link") ?? "";
  const { data, error } = useQuery({
    queryKey: ["shared", link],
    queryFn: ({ signal }) => ask("GET /api/shared", { query: { link } }, signal),
    refetchInterval: every(60_000),
  });
  // A link that has ended shows nothing more, also where it was open.
  if (error) return <ProblemNote error={error} />;
  if (!data) return <p className="text-muted">Opening the sheet…</p>;
  return <SharedSheet sheet={data.sheet} link={link} endsAt={data.endsAt} />;
}

function SharedSheet({ sheet, link, endsAt }: { sheet: Sheet; link: string; endsAt: number }) {
  const { dayWithYear } = useTimes();
  const [address, change] = useSheetAddress();
  const { choice, chooseWindow } = usePlace();
  const { chosen, unknown } = useChosen(sheet, address.picks, link);
  const { against } = address;
  const scope = useMemo(() => ({ picks: chosen, unknown, holds: [], against, link }), [chosen, unknown, against, link]);
  return (
    <SheetScope value={scope}>
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-[24px] leading-none font-bold">{sheet.name}</h1>
        <p className="text-muted">{sheet.purpose}</p>
        <p className="ml-auto">
          <Slot
            name="window"
            options={LENGTHS.map((length) => ({ value: String(length), label: `last ${lengthInWords(length)}` }))}
            onChoose={(length) => chooseWindow({ type: "last", length: Number(length) })}
          >
            {choice.type === "last" ? `last ${lengthInWords(choice.length)}` : "a fixed window"}
          </Slot>{" "}
          <span className="text-[12.5px] text-muted">this link ends {dayWithYear(endsAt)}</span>
        </p>
      </header>
      <Freshness />
      <PickSentence sheet={sheet} chosen={chosen} address={{ ...address, holds: [] }} change={change} />
      <ReadBands sheet={sheet} scratch={null} />
    </SheetScope>
  );
}
