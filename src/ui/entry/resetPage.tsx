"use client";

import { useSearchParams } from "next/navigation";
import { useState } from "react";
import { Field, Form } from "../frame/form";
import Link from "../frame/link";
import { ask } from "../query/api";
import { useMe } from "../query/me";
import { Door } from "./door";
import { NewPassword } from "./newPassword";

/** Asks for a link, or, by a link, for a new password. */
export function ResetPage() {
  const link = useSearchParams().get("link");
  const { data } = useMe();
  const [done, setDone] = useState(false);
  if (link !== null)
    return (
      <Door title="A new password">
        {done ? (
          <p className="mt-2">
            It holds from now on, and you are signed out everywhere.{" "}
            <Link className="link" href="/sign-in">
              Sign in with it
            </Link>
            .
          </p>
        ) : (
          <Form
            button="Set it"
            send={async ({ password }) => {
              await ask("POST /api/reset/password", { body: { link, password } });
              setDone(true);
            }}
          >
            <NewPassword autoFocus />
          </Form>
        )}
      </Door>
    );
  return (
    <Door title="A new password">
      {data && !data.mail ? (
        <p className="mt-2">
          No mail is sent from here. An owner can make a link for you, under Settings, People; it works for an hour.
        </p>
      ) : done ? (
        <p className="mt-2">If that address has an account, a link is on its way. It works for an hour.</p>
      ) : (
        <Form
          button="Send me a link"
          send={async ({ email }) => {
            await ask("POST /api/reset", { body: { email } });
            setDone(true);
          }}
        >
          <Field name="email" type="email" label="address for mail" autoComplete="username" autoFocus />
        </Form>
      )}
      <p className="mt-3 text-[13px]">
        <Link className="slot" href="/sign-in">
          back to sign in
        </Link>
      </p>
    </Door>
  );
}
