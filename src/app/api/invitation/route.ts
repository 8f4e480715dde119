import { createPerson } from "@/access/people";
import { acceptInvitation, getInvitation } from "@/core/api/calls/access";
import { endLinks, findLink, giveBack, useLink } from "@/store/access/links";
import { database } from "../database";
import { Refusal, recordOwn, serve } from "../serve";
import { attempted, checkPassword, LINK_ENDED, signedIn } from "../signing";

export const dynamic = "force-dynamic";

export const GET = serve(getInvitation, ({ query: { link }, address }) =>
  attempted(null, address, async () => {
    const found = await findLink(database(), "invitation", link);
    if (!found) throw LINK_ENDED;
    const { email, role, madeBy } = found;
    return { email, role, madeBy };
  }),
);

export const POST = serve(acceptInvitation, async ({ body: { link, name, password }, request, address, heads }) => {
  const email = await attempted(null, address, async () => {
    const found = await findLink(database(), "invitation", link);
    if (!found) throw LINK_ENDED;
    checkPassword(password, [name, found.email]);
    const used = await useLink(database(), "invitation", link);
    if (!used) throw LINK_ENDED;
    const person = { name, email: used.email, password, role: used.role };
    const id = await createPerson(database(), person).catch(async (error) => {
      await giveBack(database(), link);
      throw error;
    });
    if (id === null)
      throw new Refusal(409, {
        title: "There is an account already",
        detail: `${used.email} has one; sign in with it`,
      });
    return used.email;
  });
  await endLinks(database(), "invitation", email);
  await recordOwn(email, "accepted an invitation", address);
  await signedIn({ email, password }, request, heads);
  return {};
});
