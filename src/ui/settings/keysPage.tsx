"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { SCOPE_WORDS, type Scope } from "@/core/access/rights";
import type { KeyEntry } from "@/core/api/keys";
import { Copied, Field, Form } from "../frame/form";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { ago } from "../frame/times";
import { ask } from "../query/api";
import { useMe } from "../query/me";
import { useTimes } from "../query/times";
import { useNow } from "../query/viewer";
import { Slot } from "../sentence/slot";
import { SettingsFrame } from "./settingsFrame";

/** What a key is for, in the words of a list. */
const OFFERED: readonly Scope[] = ["send", "read", "manage"];

const LENGTHS = [
  { value: "30", label: "30 days" },
  { value: "90", label: "90 days" },
  { value: "365", label: "a year" },
  { value: "none", label: "no end" },
];

function NewKey({ onMade }: { onMade: (key: { text: string; scope: Scope }) => void }) {
  const client = useQueryClient();
  const [scope, setScope] = useState<Scope>("send");
  const [length, setLength] = useState("365");
  return (
    <Form
      className="max-w-[34rem]"
      button="Make a key"
      send={async ({ name, environment = "" }, form) => {
        const days = length === "none" ? null : Number(length);
        const { text } = await ask("POST /api/keys", { body: { name, scopes: [scope], environment, days } });
        form.reset();
        onMade({ text, scope });
        await client.invalidateQueries({ queryKey: ["keys"] });
      }}
    >
      <Field name="name" label="who will use it" placeholder="loans" autoComplete="off" />
      <p className="mt-2">
        to{" "}
        <Slot
          name="what the key is for"
          options={OFFERED.map((one) => ({ value: one, label: one, note: SCOPE_WORDS[one] }))}
          onChoose={(value) => setScope(value as Scope)}
        >
          {SCOPE_WORDS[scope]}
        </Slot>
        , for{" "}
        <Slot name="for how long" options={LENGTHS} onChoose={setLength}>
          {LENGTHS.find(({ value }) => value === length)?.label}
        </Slot>
      </p>
      {scope === "send" && (
        <Field
          name="environment"
          label="what is sent with it belongs to the environment"
          placeholder="production"
          autoComplete="off"
        />
      )}
    </Form>
  );
}

function Made({ made, onDone }: { made: { text: string; scope: Scope }; onDone: () => void }) {
  return (
    <div role="alert" className="plate mt-3 border-l-4 border-l-success p-3">
      <p className="font-bold">This is the key. It is shown only now: only a hash of it is kept.</p>
      <Copied text={made.text} what="it" />
      <p className="mt-2 text-muted">
        {made.scope === "send" ? (
          <>
            An SDK shows it with{" "}
            <span className="num">OTEL_EXPORTER_OTLP_HEADERS=Authorization=Bearer%20{made.text.slice(0, 9)}…</span>
          </>
        ) : (
          <>
            A program shows it as <span className="num">Authorization: Bearer {made.text.slice(0, 9)}…</span>; the
            command takes it from <span className="num">TIN_KEY</span>, or from a file that only you can read
          </>
        )}
      </p>
      <button type="button" className="slot mt-2" onClick={onDone}>
        I have it
      </button>
    </div>
  );
}

function KeyRow({ one, now }: { one: KeyEntry; now: number }) {
  const { dayWithYear } = useTimes();
  const client = useQueryClient();
  const [sure, setSure] = useState(false);
  const [problem, setProblem] = useState<unknown>(null);
  const revoke = async () => {
    try {
      await ask("DELETE /api/keys/{id}", { params: { id: one.id } });
      await client.invalidateQueries({ queryKey: ["keys"] });
    } catch (error) {
      setProblem(error);
    }
  };
  const ended = one.expiresAt !== null && one.expiresAt <= now;
  return (
    <Row muted={one.revokedAt !== null || ended}>
      <th scope="row" className="py-1 pr-4 text-left font-semibold">
        {one.name}
      </th>
      <td className="pr-4">{one.scopes.join(", ")}</td>
      <td className="num pr-4">{one.environment}</td>
      <td className="num pr-4">{one.hint}…</td>
      <td className="pr-4">
        {one.madeBy === "" ? ago(one.createdAt, now) : `${ago(one.createdAt, now)}, by ${one.madeBy}`}
      </td>
      <td className="pr-4">{ago(one.lastUsedAt, now)}</td>
      <td className="pr-4">
        {one.expiresAt === null ? "no end" : `${ended ? "ended" : "until"} ${dayWithYear(one.expiresAt)}`}
      </td>
      <td className="text-right whitespace-nowrap">
        {one.revokedAt !== null ? (
          `revoked ${ago(one.revokedAt, now)}`
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
          <button type="button" className="slot" aria-label={`revoke ${one.name}`} onClick={() => setSure(true)}>
            revoke…
          </button>
        )}
        {problem !== null && <ProblemNote error={problem} />}
      </td>
    </Row>
  );
}

/** Keys of programs: what each may do, until when, and when it was used last. */
export function KeysPage() {
  const now = useNow();
  const me = useMe().data;
  const { data, error } = useQuery({
    queryKey: ["keys"],
    queryFn: () => ask("GET /api/keys", {}),
    enabled: me?.kind === "account" && me.rights.includes("own"),
    refetchInterval: 5000,
  });
  const [made, setMade] = useState<{ text: string; scope: Scope } | null>(null);
  return (
    <SettingsFrame>
      {error && <ProblemNote error={error} />}
      {data && (
        <section className="plate px-4 py-3">
          {data.keys.length === 0 ? (
            <p className="py-1 text-muted">
              None yet. A key lets a program send, read or change things without a person&apos;s password; it is for one
              thing, ends by itself, and can be revoked.
            </p>
          ) : (
            <Table
              heads={[
                "name",
                "to",
                "environment",
                "begins with",
                "made",
                "last used",
                "in force",
                { name: "revoke", hidden: true },
              ]}
              label="Keys"
            >
              {data.keys.map((one) => (
                <KeyRow key={one.id} one={one} now={now} />
              ))}
            </Table>
          )}
          {made && <Made made={made} onDone={() => setMade(null)} />}
          <h2 className="mt-4 font-bold">{data.keys.length === 0 ? "Make one" : "Make another"}</h2>
          <NewKey onMade={setMade} />
        </section>
      )}
    </SettingsFrame>
  );
}
