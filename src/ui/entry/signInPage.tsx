"use client";

import { useSearchParams } from "next/navigation";
import { useState } from "react";
import { ROLE_WORDS } from "@/core/access/rights";
import type { Me } from "@/core/api/people";
import { Field, Form } from "../frame/form";
import Link from "../frame/link";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useMe } from "../query/me";
import { Door, goOn } from "./door";

/** The second step: a code from a device, or one of the codes kept for the day that it is lost. */
function CodeStep({ to, onBack }: { to: string | null; onBack: () => void }) {
  const [recovery, setRecovery] = useState(false);
  return (
    <Door title={recovery ? "A recovery code" : "Your one-time code"}>
      <Form
        key={String(recovery)}
        button="Sign in"
        send={async ({ code }) => {
          await ask("POST /api/sign-in/code", { body: { code, recovery } });
          goOn(to);
        }}
      >
        <Field
          name="code"
          label={
            recovery ? "one of those that you kept; it is used up by this" : "the six figures that your device shows"
          }
          autoComplete="one-time-code"
          inputMode={recovery ? "text" : "numeric"}
          autoFocus
        />
      </Form>
      <p className="mt-3 flex justify-between text-[13px]">
        <button type="button" className="slot" onClick={() => setRecovery(!recovery)}>
          {recovery ? "use a one-time code" : "I do not have my device"}
        </button>
        <button type="button" className="slot" onClick={onBack}>
          back
        </button>
      </p>
    </Door>
  );
}

/** The accounts of the demonstration, to choose one. */
function Cast({ cast, to }: { cast: NonNullable<Me["demonstration"]>; to: string | null }) {
  const [problem, setProblem] = useState<unknown>(null);
  const enter = async (email: string) => {
    try {
      await ask("POST /api/demonstration", { body: { email } });
      goOn(to);
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <section className="plate mt-3 px-5 py-3" aria-label="The demonstration's accounts">
      <h2 className="font-bold">This is the demonstration: come in as</h2>
      <ul>
        {cast.map(({ email, name, role }) => (
          <li key={email} className="mt-2">
            <button type="button" className="btn btn-sm" onClick={() => void enter(email)}>
              {name}
            </button>{" "}
            <span className="text-[13px]">
              <b>{role}</b>: {ROLE_WORDS[role]}
            </span>
          </li>
        ))}
      </ul>
      {problem !== null && <ProblemNote error={problem} />}
    </section>
  );
}

export function SignInPage() {
  const to = useSearchParams().get("to");
  const { data } = useMe();
  const [codeNeeded, setCodeNeeded] = useState(false);
  if (codeNeeded) return <CodeStep to={to} onBack={() => setCodeNeeded(false)} />;
  return (
    <div className="w-full max-w-[26rem]">
      <Door title="Sign in">
        {data && !data.anybody ? (
          <p className="mt-2">
            Nobody has an account here yet. The first owner is made by the address that the start printed; each start
            prints another until there is one.
          </p>
        ) : (
          <>
            <Form
              button="Sign in"
              send={async ({ email, password }) => {
                const answer = await ask("POST /api/sign-in", { body: { email, password } });
                if (answer.codeNeeded) setCodeNeeded(true);
                else goOn(to);
              }}
            >
              <Field name="email" type="email" label="address for mail" autoComplete="username" autoFocus />
              <Field name="password" type="password" label="password" autoComplete="current-password" />
            </Form>
            <p className="mt-3 text-[13px]">
              <Link className="slot" href="/reset">
                I do not know my password
              </Link>
            </p>
          </>
        )}
      </Door>
      {data?.demonstration && <Cast cast={data.demonstration} to={to} />}
    </div>
  );
}
