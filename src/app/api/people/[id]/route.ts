import { changePerson as change, findPerson, LastOwnerError } from "@/access/people";
import { changePerson } from "@/core/api/calls/people";
import { announceKeysChanged } from "@/store/access/keys";
import { database } from "../../database";
import { Refusal, record, serve } from "../../serve";

export const dynamic = "force-dynamic";

export const PUT = serve(changePerson, async (asked) => {
  const { id } = asked.params;
  const { role, off } = asked.body;
  const person = await findPerson(database(), id);
  try {
    if (!person || !(await change(database(), id, { role, off })))
      throw new Refusal(404, { title: "No such account", detail: "no account has this id" });
  } catch (error) {
    if (!(error instanceof LastOwnerError)) throw error;
    throw new Refusal(409, { title: "Not changed", detail: error.message });
  }
  const about = `${person.name}, ${person.email}`;
  if (role !== undefined) await record(asked, `made somebody ${role}`, about);
  // Keys of an account that is switched off stop working, and come back with it.
  if (off !== undefined) await announceKeysChanged(database());
  if (off !== undefined) await record(asked, `switched an account ${off ? "off" : "on"}`, about);
  return {};
});
