"use client";

import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type RejectedRequestEntry, type TokenEntry, tokenRequest } from "@/core/api/senders";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { duration } from "../frame/times";
import { ApiProblem, ask } from "../query/api";
import { useNow } from "../query/place";
import { useSenders } from "../query/services";
import { Slot } from "../sentence/slot";

function ago(time: number | null, now: number): string {
  return time === null ? "never" : `${duration(Math.max(0, now - time))} ago`;
}

function NewToken({ onMade }: { onMade: (text: string) => void }) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<unknown>(null);
  const make = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const asked = tokenRequest.safeParse(Object.fromEntries(new FormData(form)));
    if (!asked.success) {
      setProblem(new ApiProblem({ title: "Not made", detail: asked.error.issues[0].message }, 400));
      return;
    }
    try {
      const { text } = await ask("POST /api/senders/tokens", { body: asked.data });
      form.reset();
      setProblem(null);
      onMade(text);
      await client.invalidateQueries({ queryKey: ["senders"] });
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <form onSubmit={make} className="mt-2 flex flex-wrap items-end gap-3">
      <label>
        <span className="block text-[12.5px] text-muted">who will use it</span>
        <input name="name" className="input input-sm w-56" placeholder="loans" />
      </label>
      <label>
        <span className="block text-[12.5px] text-muted">for the environment</span>
        <input name="environment" className="input input-sm num w-44" placeholder="production" />
      </label>
      <button type="submit" className="btn btn-sm">
        Make a token
      </button>
      {problem !== null && <ProblemNote error={problem} />}
    </form>
  );
}

function Made({ text, onDone }: { text: string; onDone: () => void }) {
  return (
    <div role="alert" className="plate mt-2 border-l-4 border-l-success p-3">
      <p className="font-bold">This is the token. It is shown only now: only a hash of it is kept.</p>
      <p className="num my-1 break-all select-all">{text}</p>
      <p className="text-muted">
        A sender shows it as <span className="num">Authorization: Bearer {text.slice(0, 9)}…</span>, an SDK with{" "}
        <span className="num">OTEL_EXPORTER_OTLP_HEADERS=Authorization=Bearer%20{text.slice(0, 9)}…</span>
      </p>
      <p className="mt-2 flex gap-3">
        <button type="button" className="btn btn-sm" onClick={() => void navigator.clipboard.writeText(text)}>
          Copy it
        </button>
        <button type="button" className="slot" onClick={onDone}>
          I have it
        </button>
      </p>
    </div>
  );
}

function TokenRow({ token, now }: { token: TokenEntry; now: number }) {
  const client = useQueryClient();
  const [sure, setSure] = useState(false);
  const [problem, setProblem] = useState<unknown>(null);
  const revoke = async () => {
    try {
      await ask("DELETE /api/senders/tokens/{id}", { params: { id: token.id } });
      await client.invalidateQueries({ queryKey: ["senders"] });
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <Row muted={token.revokedAt !== null}>
      <th scope="row" className="py-1 pr-4 text-left font-semibold">
        {token.name}
      </th>
      <td className="num pr-4">{token.environment}</td>
      <td className="num pr-4">{token.hint}…</td>
      <td className="pr-4">{ago(token.createdAt, now)}</td>
      <td className="pr-4">{ago(token.lastUsedAt, now)}</td>
      <td className="text-right whitespace-nowrap">
        {token.revokedAt !== null ? (
          `revoked ${ago(token.revokedAt, now)}`
        ) : sure ? (
          <>
            Whoever uses it is turned away from then on.{" "}
            <button type="button" className="btn btn-xs btn-error" onClick={() => void revoke()}>
              Revoke it
            </button>{" "}
            <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
              Keep it
            </button>
          </>
        ) : (
          <button type="button" className="slot" aria-label={`revoke ${token.name}`} onClick={() => setSure(true)}>
            revoke…
          </button>
        )}
        {problem !== null && <ProblemNote error={problem} />}
      </td>
    </Row>
  );
}

function RejectedRequests({ all, now }: { all: readonly RejectedRequestEntry[]; now: number }) {
  const client = useQueryClient();
  const clear = async () => {
    await ask("DELETE /api/senders", {});
    await client.invalidateQueries({ queryKey: ["senders"] });
  };
  return (
    <section className="plate mt-3 px-3 py-2">
      <h2 className="flex items-baseline justify-between font-bold">
        Turned away
        {all.length > 0 && (
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
  const [made, setMade] = useState<string | null>(null);
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
            <Slot
              name="who may send"
              options={[
                { value: "anyone", label: "anyone on this machine" },
                { value: "token", label: "whoever shows a token" },
              ]}
              onChoose={(value) => void rule(value === "token")}
            >
              {data.needed ? "whoever shows a token" : "anyone on this machine"}
            </Slot>
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
          <section className="plate px-3 py-2">
            <h2 className="font-bold">Tokens</h2>
            {data.tokens.length === 0 ? (
              <p className="py-1 text-muted">
                None yet. A token says who sends, and for which environment: its points can be told from others, and it
                can be revoked.
              </p>
            ) : (
              <Table
                heads={["name", "environment", "begins with", "made", "last used", { name: "revoke", hidden: true }]}
              >
                {data.tokens.map((token) => (
                  <TokenRow key={token.id} token={token} now={now} />
                ))}
              </Table>
            )}
            {made !== null && <Made text={made} onDone={() => setMade(null)} />}
            <NewToken onMade={setMade} />
          </section>
          <RejectedRequests all={data.rejected} now={now} />
        </>
      )}
    </>
  );
}
