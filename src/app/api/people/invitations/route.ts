import { publicAddress } from "@/access/auth";
import { nameOf } from "@/access/callers";
import { sendMail } from "@/access/mail";
import { personWith } from "@/access/people";
import { ROLE_WORDS } from "@/core/access/rights";
import { endInvitation, invite } from "@/core/api/calls/people";
import { DAY } from "@/core/window/lengths";
import { createLink, endLinks } from "@/store/access/links";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";

export const dynamic = "force-dynamic";

const LASTS = 7 * DAY;

export const POST = serve(invite, async ({ body: { email, role }, caller }) => {
  if (await personWith(database(), email))
    throw new Refusal(409, {
      title: "There is an account already",
      detail: `${email} has one; change its role instead`,
    });
  // The one before is void: its role may have been another.
  await endLinks(database(), "invitation", email);
  const madeBy = nameOf(caller);
  const text = await createLink(database(), { kind: "invitation", email, role, madeBy, lasts: LASTS });
  const link = `${publicAddress()}/invitation?link=${text}`;
  const mail = `${madeBy} invites you to Tin Ladder as ${role}, who ${ROLE_WORDS[role]}. Choose a name and a password within a week:\n\n${link}\n`;
  return { link, mailed: await sendMail(email, `${madeBy} invites you to Tin Ladder`, mail) };
});

export const DELETE = serve(endInvitation, async ({ body: { email } }) => {
  if ((await endLinks(database(), "invitation", email)) === 0)
    throw new Refusal(404, { title: "No such invitation", detail: `no invitation to ${email} is open` });
  return {};
});
