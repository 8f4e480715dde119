import { canMail } from "@/access/mail";
import { codesRequired, listPeople, requireCodes } from "@/access/people";
import { changePeopleRule, getPeople } from "@/core/api/calls/people";
import { openLinks } from "@/store/access/links";
import { database } from "../database";
import { Refusal, serve } from "../serve";
import { accountOf } from "../signing";

export const dynamic = "force-dynamic";

export const GET = serve(getPeople, async () => {
  const invitations = await openLinks(database(), "invitation");
  return {
    people: await listPeople(database()),
    invitations: invitations.map(({ id, email, role, madeBy, createdAt, expiresAt }) => ({
      id,
      email,
      role,
      madeBy,
      createdAt,
      expiresAt,
    })),
    codesRequired: await codesRequired(database()),
    mail: canMail(),
  };
});

export const PUT = serve(changePeopleRule, async ({ body, caller }) => {
  if (body.codesRequired && !accountOf(caller).codes)
    throw new Refusal(409, {
      title: "Your own first",
      detail: "set up one-time codes for yourself before you ask them of everybody: under Settings, Your account",
    });
  await requireCodes(database(), body.codesRequired);
  return {};
});
