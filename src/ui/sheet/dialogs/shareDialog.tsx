"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Dialog } from "../../frame/dialog";
import { Copied } from "../../frame/form";
import { ProblemNote } from "../../frame/problemNote";
import { ago } from "../../frame/times";
import { ask } from "../../query/api";
import { useNow } from "../../query/place";
import { useTimes } from "../../query/times";
import { Slot } from "../../sentence/slot";

const LENGTHS = [
  { value: "1", label: "a day" },
  { value: "7", label: "a week" },
  { value: "30", label: "30 days" },
  { value: "366", label: "a year" },
];

/** Links to a sheet: with its picks and window for who has an account, and ones that need none. */
export function ShareDialog({ id, onClose }: { id: string; onClose: () => void }) {
  const { dayWithYear } = useTimes();
  const client = useQueryClient();
  const now = useNow();
  const [days, setDays] = useState("7");
  const [made, setMade] = useState<string | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const { data } = useQuery({
    queryKey: ["sheet links", id],
    queryFn: ({ signal }) => ask("GET /api/sheets/{id}/links", { params: { id } }, signal),
  });
  const again = () => client.invalidateQueries({ queryKey: ["sheet links", id] });
  const make = async () => {
    try {
      const { link } = await ask("POST /api/sheets/{id}/links", { params: { id }, body: { days: Number(days) } });
      // What is picked and the window go along.
      const address = new URL(link);
      for (const [name, value] of new URLSearchParams(location.search))
        if (name !== "sheet" && name !== "service" && name !== "environment") address.searchParams.append(name, value);
      setMade(String(address));
      await again();
    } catch (error) {
      setProblem(error);
    }
  };
  const revoke = async (link: number) => {
    try {
      await ask("DELETE /api/sheet-links/{id}", { params: { id: link } });
      await again();
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <Dialog title="Share" open onClose={onClose} wide>
      <h2 className="text-base font-bold">Share</h2>
      <p className="mt-2">Who has an account here opens this address; the picks and the window stand in it:</p>
      <Copied text={location.href} what="the address" />
      <h3 className="mt-4 font-bold">Without an account</h3>
      <p className="text-muted">
        Whoever has such a link sees this sheet as it is then, its readings and nothing else, until it ends or you take
        it back.
      </p>
      <p className="mt-2">
        A link for{" "}
        <Slot name="for how long" options={LENGTHS} onChoose={setDays}>
          {LENGTHS.find(({ value }) => value === days)?.label}
        </Slot>{" "}
        <button type="button" className="btn btn-sm ml-2" onClick={() => void make()}>
          Make it
        </button>
      </p>
      {made && (
        <div role="alert" className="plate mt-2 border-l-4 border-l-success p-3">
          <p className="font-bold">This is the link. It is shown only now.</p>
          <Copied text={made} what="it" />
        </div>
      )}
      {problem !== null && <ProblemNote error={problem} />}
      {data && data.links.length > 0 && (
        <ul className="mt-3 text-[13px]">
          {data.links.map(({ id: link, madeBy, createdAt, endsAt }) => (
            <li key={link} className="border-t border-base-300/60 py-1">
              made {ago(createdAt, now)} by {madeBy}, until {dayWithYear(endsAt)}{" "}
              <button type="button" className="slot" onClick={() => void revoke(link)}>
                take it back
              </button>
            </li>
          ))}
        </ul>
      )}
    </Dialog>
  );
}
