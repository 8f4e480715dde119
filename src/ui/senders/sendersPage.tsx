"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { RejectedRequestEntry } from "@/core/api/senders";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { ago } from "../frame/times";
import { ask } from "../query/api";
import { useMay } from "../query/me";
import { useNow } from "../query/place";
import { useSenders } from "../query/services";
import { Slot } from "../sentence/slot";

/** Keys in force, and where they are made. */
function SendingKeys({
  keys,
  now,
}: {
  keys: readonly { name: string; environment: string; lastUsedAt: number | null }[];
  now: number;
}) {
  return (
    <section className="plate px-3 py-2">
      <h2 className="flex items-baseline justify-between font-bold">
        Keys to send with
        <OnlyWith right="own">
          <Link className="slot font-normal" href="/settings/keys">
            make or revoke one
          </Link>
        </OnlyWith>
      </h2>
      {keys.length === 0 ? (
        <p className="py-1 text-muted">
          None yet. A key says who sends, and for which environment: its points can be told from others, and it can be
          revoked.
        </p>
      ) : (
        <Table heads={["name", "environment", "last used"]} label="Keys to send with">
          {keys.map(({ name, environment, lastUsedAt }) => (
            <Row key={`${name} ${environment}`}>
              <th scope="row" className="py-1 pr-4 text-left font-semibold">
                {name}
              </th>
              <td className="num pr-4">{environment}</td>
              <td>{ago(lastUsedAt, now)}</td>
            </Row>
          ))}
        </Table>
      )}
    </section>
  );
}

function RejectedRequests({ all, now }: { all: readonly RejectedRequestEntry[]; now: number }) {
  const client = useQueryClient();
  const mayEdit = useMay("edit");
  const clear = async () => {
    await ask("DELETE /api/senders", {});
    await client.invalidateQueries({ queryKey: ["senders"] });
  };
  return (
    <section className="plate mt-3 px-3 py-2">
      <h2 className="flex items-baseline justify-between font-bold">
        Turned away
        {all.length > 0 && mayEdit && (
          <button type="button" className="slot font-normal" onClick={() => void clear()}>
            mended: take all off the list
          </button>
        )}
      </h2>
      {all.length === 0 ? (
        <p className="py-1 text-muted">
          Every request that came was taken. One that is refused shows here within seconds, with the reason.
        </p>
      ) : (
        <Table heads={["last", "times", "from", "asked", "why"]}>
          {all.map((one) => (
            <Row key={one.id}>
              <td className="py-1 pr-4 whitespace-nowrap">{ago(one.lastAt, now)}</td>
              <td className="num pr-4">{count(one.count)}</td>
              <td className="num pr-4">
                {one.address}
                {one.agent && <span className="block text-[12px] text-muted">{one.agent}</span>}
              </td>
              <td className="num pr-4 break-all">{one.request}</td>
              <td>
                <span className="num font-semibold text-error">{one.status}</span> {one.reason}
              </td>
            </Row>
          ))}
        </Table>
      )}
    </section>
  );
}

/** Who may send, and who was turned away. */
export function SendersPage() {
  const now = useNow();
  const client = useQueryClient();
  const carried = useCarried();
  const { data, error } = useSenders();
  const mayOwn = useMay("own");
  const [problem, setProblem] = useState<unknown>(null);
  const rule = async (needed: boolean) => {
    try {
      await ask("PUT /api/senders", { body: { needed } });
      setProblem(null);
      await client.invalidateQueries({ queryKey: ["senders"] });
    } catch (failure) {
      setProblem(failure);
    }
  };
  return (
    <>
      <header className="mb-3 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-[24px] font-bold leading-none">Senders</h1>
        {data && (
          <p>
            Points are taken from{" "}
            {mayOwn ? (
              <Slot
                name="who may send"
                options={[
                  { value: "anyone", label: "anyone on this machine" },
                  { value: "key", label: "whoever shows a key" },
                ]}
                onChoose={(value) => void rule(value === "key")}
              >
                {data.needed ? "whoever shows a key" : "anyone on this machine"}
              </Slot>
            ) : (
              <b>{data.needed ? "whoever shows a key" : "anyone on this machine"}</b>
            )}
          </p>
        )}
        <Link className="slot ml-auto" href={`/services${carried}`}>
          all services
        </Link>
      </header>
      {error && !data && <ProblemNote error={error} />}
      {problem !== null && <ProblemNote error={problem} />}
      {data && (
        <>
          <SendingKeys keys={data.keys} now={now} />
          <RejectedRequests all={data.rejected} now={now} />
        </>
      )}
    </>
  );
}
