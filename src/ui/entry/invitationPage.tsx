"use client";

import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "next/navigation";
import { ROLE_WORDS } from "@/core/access/rights";
import { Field, Form } from "../frame/form";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { Door, goOn } from "./door";
import { NewPassword } from "./newPassword";

/** Makes the account that somebody was invited to. */
export function InvitationPage() {
  const link = useSearchParams().get("link") ?? "";
  const { data, error } = useQuery({
    queryKey: ["invitation", link],
    queryFn: () => ask("GET /api/invitation", { query: { link } }),
    retry: false,
  });
  return (
    <Door title="Your account">
      {error && <ProblemNote error={error} />}
      {data && (
        <>
          <p className="mt-2">
            {data.madeBy} invites <b>{data.email}</b> as <b>{data.role}</b>, who {ROLE_WORDS[data.role]}.
          </p>
          <Form
            button="Make the account"
            send={async ({ name, password }) => {
              await ask("POST /api/invitation", { body: { link, name, password } });
              goOn(null);
            }}
          >
            <Field name="name" label="your name, as others will see it" autoComplete="name" autoFocus />
            <NewPassword />
          </Form>
        </>
      )}
    </Door>
  );
}
