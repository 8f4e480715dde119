import { publicAddress } from "@/access/auth";
import { nameOf } from "@/access/callers";
import { getSheetLinks, makeSheetLink } from "@/core/api/calls/shared";
import { DAY } from "@/core/window/lengths";
import { createSheetLink, sheetLinks } from "@/store/sheets/links";
import { database } from "../../../database";
import { serve } from "../../../serve";
import { sheetFor } from "../../../sheetOf";

export const dynamic = "force-dynamic";

export const POST = serve(makeSheetLink, async ({ params: { id }, body: { days }, caller }) => {
  await sheetFor(id, caller);
  const { link, endsAt } = await createSheetLink(database(), id, nameOf(caller), days * DAY);
  return { link: `${publicAddress()}/shared?link=${link}`, endsAt };
});

export const GET = serve(getSheetLinks, async ({ params: { id }, caller }) => {
  await sheetFor(id, caller);
  return { links: await sheetLinks(database(), id) };
});
