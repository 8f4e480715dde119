import { createPerson, hasPeople } from "@/access/people";
import { makeFirstOwner } from "@/core/api/calls/access";
import { endLinks, giveBack, useLink } from "@/store/access/links";
import { database } from "../database";
import { recordOwn, serve } from "../serve";
import { attempted, checkPassword, LINK_ENDED, signedIn } from "../signing";

export const dynamic = "force-dynamic";

export const POST = serve(makeFirstOwner, async ({ body, request, address, heads }) => {
  const { link, ...owner } = body;
  checkPassword(owner.password, [owner.name, owner.email]);
  await attempted(null, address, async () => {
    const used = await useLink(database(), "first-owner", link);
    if (!used || (await hasPeople(database()))) throw LINK_ENDED;
    const id = await createPerson(database(), { ...owner, role: "owner" }).catch(async (error) => {
      await giveBack(database(), link);
      throw error;
    });
    if (id === null) throw LINK_ENDED;
  });
  await endLinks(database(), "first-owner");
  await recordOwn(owner.email, "became the first owner", address);
  await signedIn(owner, request, heads);
  return {};
});
