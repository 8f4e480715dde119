import { auth } from "@/access/auth";
import { nameOf } from "@/access/callers";
import { demonstrationAccounts } from "@/access/demonstration";
import { canMail } from "@/access/mail";
import { hasPeople } from "@/access/people";
import { rightsOf } from "@/core/access/rights";
import { changeName, getMe } from "@/core/api/calls/access";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getMe, async ({ caller }) => {
  const account = caller.kind === "account" ? caller : null;
  const demonstration = caller.kind === "nobody" ? await demonstrationAccounts(database()) : null;
  return {
    kind: caller.kind,
    name: caller.kind === "nobody" ? "" : nameOf(caller),
    email: account?.email ?? "",
    role: account?.role ?? null,
    rights: rightsOf(caller),
    codes: account?.codes ?? false,
    mustSetUpCodes: account?.mustSetUpCodes ?? false,
    mail: canMail(),
    anybody: await hasPeople(database()),
    demonstration: demonstration ? [...demonstration] : null,
  };
});

export const PUT = serve(changeName, async ({ body, request }) => {
  await auth(database()).api.updateUser({ body, headers: request.headers });
  return {};
});
