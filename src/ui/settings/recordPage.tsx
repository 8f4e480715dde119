"use client";

import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { queryText } from "@/core/api/address";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { ask } from "../query/api";
import { useMe } from "../query/me";
import { useTimes } from "../query/times";
import { SettingsFrame } from "./settingsFrame";

const ROWS = 100;

/** Who did what and when: it can be searched, and nobody can change it. */
export function RecordPage() {
  const { moment } = useTimes();
  const me = useMe().data;
  const [text, setText] = useState("");
  const find = useDeferredValue(text.trim());
  const { data, error, hasNextPage, fetchNextPage, isFetching } = useInfiniteQuery({
    queryKey: ["record", find],
    queryFn: ({ pageParam }) =>
      ask("GET /api/record", { query: { find, rows: ROWS, ...(pageParam === null ? {} : { before: pageParam }) } }),
    initialPageParam: null as number | null,
    getNextPageParam: ({ lines, more }) => (more ? lines[lines.length - 1].id : null),
    enabled: me?.kind === "account" && me.rights.includes("own"),
    placeholderData: keepPreviousData,
  });
  const lines = data?.pages.flatMap((page) => page.lines) ?? [];
  return (
    <SettingsFrame>
      <section className="plate px-4 py-3">
        <p className="flex flex-wrap items-center gap-3">
          <input
            className="input input-sm w-64"
            value={text}
            onChange={(event) => setText(event.target.value)}
            placeholder="a name, an address, a thing…"
            aria-label="Find in the record"
          />
          <span className="text-muted">Lines are only ever added; the database lets nobody change one.</span>
          <a className="slot ml-auto" href={`/api/record/csv?${queryText({ find })}`} download>
            as a table (CSV)
          </a>
        </p>
        {error && <ProblemNote error={error} />}
        {data && lines.length === 0 ? (
          <p className="py-2 text-muted">
            {find === "" ? "Nothing is on record yet." : `No line has "${find}" in it.`}
          </p>
        ) : (
          <Table heads={["when", "who", "did", { name: "to what", wide: true }, "from"]} label="The record">
            {lines.map(({ id, at, who, did, about, address }) => (
              <Row key={id}>
                <td className="py-1 pr-4 whitespace-nowrap">{moment(at)}</td>
                <th scope="row" className="pr-4 text-left font-semibold whitespace-nowrap">
                  {who}
                </th>
                <td className="pr-4 whitespace-nowrap">{did}</td>
                <td className="pr-4 break-words">{about}</td>
                <td className="num">{address}</td>
              </Row>
            ))}
          </Table>
        )}
        {hasNextPage && (
          <button type="button" className="btn btn-sm mt-2" disabled={isFetching} onClick={() => void fetchNextPage()}>
            Earlier lines
          </button>
        )}
      </section>
    </SettingsFrame>
  );
}
