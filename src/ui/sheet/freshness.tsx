"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { refreshEvery } from "@/core/window/window";
import { duration } from "../frame/times";
import { useNow, usePlace, useSpan } from "../query/place";
import { useTimes } from "../query/times";

/** After so many refreshes without an answer, what is shown counts as old. */
const MISSED = 4;

/** Says on paper which window a sheet shows, and on the screen when a live one is not refreshed any more. */
export function Freshness() {
  const { dayWithYear, moment } = useTimes();
  const client = useQueryClient();
  const { choice } = usePlace();
  const span = useSpan();
  const now = useNow();
  const [newest, setNewest] = useState<number | null>(null);
  useEffect(() => {
    const look = () => {
      const times = client
        .getQueryCache()
        .findAll({ queryKey: ["reading"] })
        .map(({ state }) => state.dataUpdatedAt);
      setNewest(times.length === 0 ? null : Math.max(...times));
    };
    look();
    const timer = setInterval(look, 5000);
    return () => clearInterval(timer);
  }, [client]);
  const patience =
    choice.type === "last" ? Math.max(30_000, MISSED * refreshEvery(choice.length)) : Number.POSITIVE_INFINITY;
  const age = newest === null || newest === 0 || now === 0 ? 0 : now - newest;
  return (
    <>
      {span && (
        <p className="hidden text-[13px] print:block">
          {moment(span.from)} to {moment(span.to)}, printed {dayWithYear(now)}
        </p>
      )}
      {age > patience && (
        <p role="status" className="mt-2 text-warning">
          ◆ This is {duration(age)} old: nothing was answered since. What is shown is not of now.
        </p>
      )}
    </>
  );
}
