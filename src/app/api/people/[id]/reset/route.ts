import { publicAddress } from "@/access/auth";
import { nameOf } from "@/access/callers";
import { sendMail } from "@/access/mail";
import { findPerson } from "@/access/people";
import { createResetLink } from "@/access/resets";
import { makeResetLink } from "@/core/api/calls/people";
import { database } from "../../../database";
import { Refusal, record, serve } from "../../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(makeResetLink, async (asked) => {
  const person = await findPerson(database(), asked.params.id);
  const token = person && (await createResetLink(database(), person.email, nameOf(asked.caller)));
  if (!person || !token) throw new Refusal(404, { title: "No such account", detail: "no account has this id" });
  const link = `${publicAddress()}/reset?link=${token}`;
  const text = `An owner made this link for you, to choose a new password for Tin Ladder within an hour:\n\n${link}\n`;
  await record(asked, "made a link for a new password", `${person.name}, ${person.email}`);
  return { link, mailed: await sendMail(person.email, "A new password for Tin Ladder", text) };
});
