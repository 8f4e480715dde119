"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ROLE_WORDS, ROLES, type Role } from "@/core/access/rights";
import type { InvitationEntry, PersonEntry } from "@/core/api/people";
import { Copied, Field, Form } from "../frame/form";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { ago, duration } from "../frame/times";
import { ask } from "../query/api";
import { useMe } from "../query/me";
import { useNow } from "../query/viewer";
import { Slot } from "../sentence/slot";
import { SettingsFrame } from "./settingsFrame";

const ROLE_OPTIONS = ROLES.map((role) => ({ value: role, label: role, note: ROLE_WORDS[role] }));

/** A link that was made for somebody: sent, or to be handed over. */
interface MadeLink {
  link: string;
  mailed: boolean;
  email: string;
}

function Handed({ made, onDone }: { made: MadeLink; onDone: () => void }) {
  return (
    <div role="alert" className="plate mt-3 border-l-4 border-l-success p-3">
      <p className="font-bold">
        {made.mailed
          ? `It was sent to ${made.email}. The link in it, should it not arrive:`
          : `No mail was sent. Hand this link to ${made.email}:`}
      </p>
      <Copied text={made.link} what="the link" />{" "}
      <button type="button" className="slot ml-3" onClick={onDone}>
        I have it
      </button>
    </div>
  );
}

function PersonRow({
  person,
  own,
  now,
  change,
  onReset,
}: {
  person: PersonEntry;
  own: boolean;
  now: number;
  change: (person: PersonEntry, to: { role?: Role; off?: boolean }) => Promise<void>;
  onReset: () => void;
}) {
  const [sure, setSure] = useState(false);
  return (
    <Row muted={person.off}>
      <th scope="row" className="py-1 pr-4 text-left font-semibold">
        {person.name}
        {own && <span className="font-normal text-muted"> (you)</span>}
      </th>
      <td className="pr-4">{person.email}</td>
      <td className="pr-4">
        {person.off ? (
          person.role
        ) : (
          <Slot
            name={`role of ${person.name}`}
            options={ROLE_OPTIONS}
            onChoose={(role) => void change(person, { role: role as Role })}
          >
            {person.role}
          </Slot>
        )}
      </td>
      <td className="pr-4">{person.codes ? "yes" : "no"}</td>
      <td className="pr-4 whitespace-nowrap">
        {person.lastSignIn === null ? "no session" : ago(person.lastSignIn, now)}
      </td>
      <td className="text-right whitespace-nowrap">
        {sure ? (
          <>
            They are refused at once; what they did stays on record.{" "}
            <button
              type="button"
              className="btn btn-xs btn-error"
              onClick={() => void change(person, { off: true }).finally(() => setSure(false))}
            >
              Switch it off
            </button>{" "}
            <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
              Leave it
            </button>
          </>
        ) : (
          <>
            {!person.off && (
              <button type="button" className="slot mr-3" onClick={onReset}>
                link for a new password
              </button>
            )}
            <button
              type="button"
              className="slot"
              aria-label={`switch ${person.off ? "on" : "off"} the account of ${person.name}`}
              onClick={() => (person.off ? void change(person, { off: false }) : setSure(true))}
            >
              {person.off ? "switch on" : "switch off…"}
            </button>
          </>
        )}
      </td>
    </Row>
  );
}

function Invitations({
  all,
  now,
  onEnd,
}: {
  all: readonly InvitationEntry[];
  now: number;
  onEnd: (email: string) => void;
}) {
  if (all.length === 0) return null;
  return (
    <Table heads={["invited", "as", "by", "ends in", { name: "take back", hidden: true }]} label="Open invitations">
      {all.map(({ id, email, role, madeBy, expiresAt }) => (
        <Row key={id}>
          <th scope="row" className="py-1 pr-4 text-left font-semibold">
            {email}
          </th>
          <td className="pr-4">{role}</td>
          <td className="pr-4">{madeBy}</td>
          <td className="pr-4">{duration(Math.max(0, expiresAt - now))}</td>
          <td className="text-right">
            <button type="button" className="slot" onClick={() => onEnd(email)}>
              take it back
            </button>
          </td>
        </Row>
      ))}
    </Table>
  );
}

/** Who has an account, and who is invited. */
export function PeoplePage() {
  const now = useNow();
  const client = useQueryClient();
  const me = useMe().data;
  const { data, error } = useQuery({
    queryKey: ["people"],
    queryFn: () => ask("GET /api/people", {}),
    enabled: me?.rights.includes("own") === true && me.kind === "account",
  });
  const [problem, setProblem] = useState<unknown>(null);
  const [made, setMade] = useState<MadeLink | null>(null);
  const [role, setRole] = useState<Role>("viewer");
  const act = async (work: () => Promise<unknown>) => {
    try {
      await work();
      setProblem(null);
    } catch (failure) {
      setProblem(failure);
    }
    await client.invalidateQueries({ queryKey: ["people"] });
    await client.invalidateQueries({ queryKey: ["me"] });
  };
  const reset = ({ id, email }: PersonEntry) =>
    act(async () => setMade({ ...(await ask("POST /api/people/{id}/reset", { params: { id } })), email }));
  return (
    <SettingsFrame>
      {error && <ProblemNote error={error} />}
      {problem !== null && <ProblemNote error={problem} />}
      {data && (
        <>
          <p className="mb-2">
            One-time codes are{" "}
            <Slot
              name="who needs one-time codes"
              options={[
                { value: "some", label: "a choice of each" },
                { value: "all", label: "asked of everybody" },
              ]}
              onChoose={(value) => void act(() => ask("PUT /api/people", { body: { codesRequired: value === "all" } }))}
            >
              {data.codesRequired ? "asked of everybody" : "a choice of each"}
            </Slot>
          </p>
          <section className="plate px-4 py-3">
            <Table
              heads={["name", "address", "role", "codes", "signed in", { name: "change", hidden: true }]}
              label="People"
            >
              {data.people.map((person) => (
                <PersonRow
                  key={person.id}
                  person={person}
                  own={person.email === me?.email}
                  now={now}
                  change={(one, to) => act(() => ask("PUT /api/people/{id}", { params: { id: one.id }, body: to }))}
                  onReset={() => void reset(person)}
                />
              ))}
            </Table>
          </section>
          <section className="plate mt-3 px-4 py-3">
            <h2 className="font-bold">Invite somebody</h2>
            <Form
              className="max-w-[34rem]"
              button="Invite"
              send={async ({ email }, form) => {
                setMade({ ...(await ask("POST /api/people/invitations", { body: { email, role } })), email });
                form.reset();
                await client.invalidateQueries({ queryKey: ["people"] });
              }}
            >
              <Field name="email" type="email" label="their address for mail" autoComplete="off" />
              <p className="mt-2">
                as{" "}
                <Slot name="role of the invited" options={ROLE_OPTIONS} onChoose={(value) => setRole(value as Role)}>
                  {role}
                </Slot>
                , who {ROLE_WORDS[role]}
              </p>
            </Form>
            {made && <Handed made={made} onDone={() => setMade(null)} />}
            <Invitations
              all={data.invitations}
              now={now}
              onEnd={(email) => void act(() => ask("DELETE /api/people/invitations", { body: { email } }))}
            />
          </section>
        </>
      )}
    </SettingsFrame>
  );
}
