import { demonstrationPassword } from "@/access/auth";
import { demonstrationAccounts } from "@/access/demonstration";
import { lookAround } from "@/core/api/calls/access";
import { useLink } from "@/store/access/links";
import { database } from "../database";
import { Refusal, recordOwn, serve } from "../serve";
import { LINK_ENDED, signedIn } from "../signing";

export const dynamic = "force-dynamic";

const NONE = new Refusal(404, { title: "No demonstration", detail: "there is no demonstration here; sign in" });

export const POST = serve(lookAround, async ({ body: { link, email }, request, address, heads }) => {
  const all = await demonstrationAccounts(database());
  if (!all) throw NONE;
  const wanted = link === undefined ? email : (await useLink(database(), "demonstration", link))?.email;
  if (link !== undefined && wanted === undefined) throw LINK_ENDED;
  const chosen = all.find((one) => one.email === wanted);
  if (!chosen) throw NONE;
  await signedIn({ email: chosen.email, password: demonstrationPassword(chosen.email) }, request, heads);
  await recordOwn(chosen.email, "signed in to look around", address);
  return {};
});
