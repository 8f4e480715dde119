"use client";

import { useSearchParams } from "next/navigation";
import { Field, Form } from "../frame/form";
import { ask } from "../query/api";
import { Door, goOn } from "./door";
import { NewPassword } from "./newPassword";

/** Makes the first account of an installation, by the address that its start printed. */
export function FirstOwnerPage() {
  const link = useSearchParams().get("link") ?? "";
  return (
    <Door title="The first owner">
      <p className="mt-2">
        This makes the first account. It may do everything, and invites the others. From then on, everybody signs in.
      </p>
      <Form
        button="Make the account"
        send={async ({ name, email, password }) => {
          await ask("POST /api/first-owner", { body: { link, name, email, password } });
          goOn(null);
        }}
      >
        <Field name="name" label="your name, as others will see it" autoComplete="name" autoFocus />
        <Field name="email" type="email" label="address for mail" autoComplete="username" />
        <NewPassword />
      </Form>
    </Door>
  );
}
