import { revokeSheetLink } from "@/core/api/calls/shared";
import { revokeSheetLink as revoke, sheetOfLink } from "@/store/sheets/links";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";
import { seenBy } from "../../sheetOf";

export const dynamic = "force-dynamic";

export const DELETE = serve(revokeSheetLink, async ({ params: { id }, caller }) => {
  const sheet = await sheetOfLink(database(), id);
  if (!sheet || !seenBy(caller)(sheet))
    throw new Refusal(404, { title: "No such link", detail: "there is no link with this id" });
  await revoke(database(), id);
  return {};
});
