import { getSharedPick } from "@/core/api/calls/shared";
import { picksBefore, picksFor } from "@/core/sheet/pickText";
import { pickValues } from "@/store/sheets/pickValues";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";
import { behind, offered } from "../behind";

export const dynamic = "force-dynamic";

export const POST = serve(getSharedPick, async ({ body: { link, pick: name, picks } }) => {
  const { saved } = await behind(link);
  const pick = saved.body.picks.find((one) => one.name === name);
  if (!pick) throw new Refusal(403, { title: "No such pick", detail: `the sheet of this link has no pick ${name}` });
  const chosen = await offered(picksBefore(saved.body.picks, pick), picks);
  return pickValues(database(), pick.source, picksFor(pick, chosen));
});
