"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { QRCodeSVG } from "qrcode.react";
import { useState } from "react";
import { ROLE_WORDS } from "@/core/access/rights";
import type { SessionEntry } from "@/core/api/people";
import { Copied, Field, Form } from "../frame/form";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { ago } from "../frame/times";
import { ask } from "../query/api";
import { useMe } from "../query/me";
import { useTimes } from "../query/times";
import { useNow } from "../query/viewer";
import { SettingsFrame } from "./settingsFrame";

/** Signs out, with a new document: nothing of what was seen stays. */
async function signOut(): Promise<void> {
  await ask("POST /api/sign-out", {});
  location.assign("/sign-in");
}

function NamePart() {
  const client = useQueryClient();
  const { data } = useMe();
  const [saved, setSaved] = useState(false);
  if (!data) return null;
  return (
    <section className="plate px-4 py-3">
      <div className="flex items-baseline justify-between">
        <h2 className="font-bold">Who you are</h2>
        <button type="button" className="btn btn-sm" onClick={() => void signOut()}>
          Sign out
        </button>
      </div>
      <p>
        {data.email}, <b>{data.role}</b>
        {data.role && <span className="text-muted">: {ROLE_WORDS[data.role]}</span>}
      </p>
      <Form
        quiet
        button={saved ? "Saved" : "Change the name"}
        send={async ({ name }) => {
          await ask("PUT /api/me", { body: { name } });
          setSaved(true);
          await client.invalidateQueries({ queryKey: ["me"] });
        }}
      >
        <Field
          name="name"
          label="your name, as others see it"
          defaultValue={data.name}
          onChange={() => setSaved(false)}
        />
      </Form>
    </section>
  );
}

function PasswordPart() {
  const [done, setDone] = useState(false);
  return (
    <section className="plate px-4 py-3">
      <h2 className="font-bold">Password</h2>
      {done ? (
        <p role="status">It is changed. Everywhere else you are signed out.</p>
      ) : (
        <Form
          quiet
          button="Change the password"
          send={async ({ current, password }, form) => {
            await ask("PUT /api/me/password", { body: { current, password } });
            form.reset();
            setDone(true);
          }}
        >
          <Field name="current" type="password" label="the one that you have now" autoComplete="current-password" />
          <Field
            name="password"
            type="password"
            label="the new one"
            autoComplete="new-password"
            minLength={10}
            hint="At least ten characters; four words that nobody would guess are good."
          />
        </Form>
      )}
    </section>
  );
}

interface Secrets {
  uri: string;
  secret: string;
  recovery: string[];
}

/** The codes for the day that a device is lost, to be kept now. */
function Recovery({ codes }: { codes: readonly string[] }) {
  return (
    <div role="alert" className="mt-3 border-l-4 border-l-success pl-3">
      <p className="font-bold">Recovery codes: each signs you in once, without your device. They are shown only now.</p>
      <Copied text={codes.join("\n")} what="them" />
    </div>
  );
}

function SetUp({ secrets, onDone }: { secrets: Secrets; onDone: () => void }) {
  return (
    <>
      <p className="mt-2">Show this to a program for one-time codes, or type its secret:</p>
      <div className="my-2 inline-block bg-white p-3">
        <QRCodeSVG value={secrets.uri} size={168} title="The secret as a picture to be scanned" />
      </div>
      <p className="num break-all select-all">{secrets.secret}</p>
      <Recovery codes={secrets.recovery} />
      <Form
        button="They work: ask for codes from now on"
        send={async ({ code }) => {
          await ask("PUT /api/me/codes", { body: { code } });
          onDone();
        }}
      >
        <Field name="code" label="the code that it shows" inputMode="numeric" autoComplete="one-time-code" />
      </Form>
    </>
  );
}

/** Asks for the password once more before something that a stranger at the screen must not do. */
function Confirm({ button, send }: { button: string; send: (password: string) => Promise<void> }) {
  return (
    <Form quiet button={button} send={({ password }) => send(password)}>
      <Field name="password" type="password" label="your password" autoComplete="current-password" />
    </Form>
  );
}

function CodesPart() {
  const client = useQueryClient();
  const { data } = useMe();
  const [secrets, setSecrets] = useState<Secrets | null>(null);
  const [recovery, setRecovery] = useState<string[] | null>(null);
  const [doing, setDoing] = useState<"end" | "renew" | null>(null);
  const again = () => client.invalidateQueries({ queryKey: ["me"] });
  if (!data) return null;
  return (
    <section className="plate px-4 py-3">
      <h2 className="font-bold">One-time codes</h2>
      {data.mustSetUpCodes && (
        <p role="alert" className="border-l-4 border-l-warning pl-3">
          An owner asks for them of everybody here. Set them up to go on.
        </p>
      )}
      {secrets ? (
        <SetUp
          secrets={secrets}
          onDone={() => {
            setSecrets(null);
            void again();
          }}
        />
      ) : data.codes ? (
        <>
          <p>A code is asked for at each sign-in.</p>
          {recovery && <Recovery codes={recovery} />}
          {doing === null ? (
            <p className="mt-2 flex gap-4">
              <button type="button" className="slot" onClick={() => setDoing("renew")}>
                make new recovery codes…
              </button>
              <button type="button" className="slot" onClick={() => setDoing("end")}>
                ask for none any more…
              </button>
            </p>
          ) : (
            <Confirm
              button={doing === "end" ? "Ask for no codes any more" : "Make new recovery codes"}
              send={async (password) => {
                if (doing === "end") await ask("DELETE /api/me/codes", { body: { password } });
                else setRecovery((await ask("POST /api/me/codes/recovery", { body: { password } })).recovery);
                setDoing(null);
                await again();
              }}
            />
          )}
        </>
      ) : (
        <>
          <p>With them, a password alone signs nobody in: a code from a device of yours is asked for too.</p>
          <Confirm
            button="Set up one-time codes"
            send={async (password) => setSecrets(await ask("POST /api/me/codes", { body: { password } }))}
          />
        </>
      )}
    </section>
  );
}

/** What signed in, told by what it said of itself. */
function agentInWords(agent: string): string {
  const program = /(Edg|Firefox|Chrome|Safari)\/(\d+)/.exec(agent);
  const system = /Windows|Mac OS|Android|iPhone|Linux/.exec(agent)?.[0];
  return program ? `${program[1]} ${program[2]}${system ? `, ${system}` : ""}` : agent.slice(0, 60) || "a program";
}

function SessionsPart() {
  const { moment } = useTimes();
  const now = useNow();
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: ["sessions"], queryFn: () => ask("GET /api/me/sessions", {}) });
  const [problem, setProblem] = useState<unknown>(null);
  const ended = async (work: Promise<unknown>) => {
    try {
      await work;
      await client.invalidateQueries({ queryKey: ["sessions"] });
    } catch (failure) {
      setProblem(failure);
    }
  };
  const end = ({ id }: SessionEntry) => void ended(ask("DELETE /api/me/sessions/{id}", { params: { id } }));
  return (
    <section className="plate px-4 py-3">
      <h2 className="flex items-baseline justify-between font-bold">
        Where you are signed in
        {data && data.sessions.length > 1 && (
          <button
            type="button"
            className="slot font-normal"
            onClick={() => void ended(ask("DELETE /api/me/sessions", {}))}
          >
            end all others
          </button>
        )}
      </h2>
      {(error ?? problem) !== null && <ProblemNote error={error ?? problem} />}
      {data && (
        <Table
          heads={["with", "from", "since", "until", { name: "end", hidden: true }]}
          label="Where you are signed in"
        >
          {data.sessions.map((session) => (
            <Row key={session.id}>
              <th scope="row" className="py-1 pr-4 text-left font-semibold">
                {agentInWords(session.agent)}
              </th>
              <td className="num pr-4">{session.address}</td>
              <td className="pr-4">{now > 0 && ago(session.createdAt, now)}</td>
              <td className="pr-4">{moment(session.expiresAt)}</td>
              <td className="text-right">
                {session.own ? (
                  "this one"
                ) : (
                  <button type="button" className="slot" onClick={() => end(session)}>
                    end it
                  </button>
                )}
              </td>
            </Row>
          ))}
        </Table>
      )}
    </section>
  );
}

/** One's own account: name, password, codes, and where one is signed in. */
export function AccountPage() {
  const { data } = useMe();
  return (
    <SettingsFrame>
      <div className="grid items-start gap-3 xl:grid-cols-2">
        {data?.mustSetUpCodes && <CodesPart />}
        <NamePart />
        <PasswordPart />
        {!data?.mustSetUpCodes && <CodesPart />}
        <SessionsPart />
      </div>
    </SettingsFrame>
  );
}
