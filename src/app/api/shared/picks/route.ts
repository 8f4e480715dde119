import { getSharedPick } from "@/core/api/calls/shared";
import { picksBefore, picksFor } from "@/core/sheet/pickText";
import { runJob } from "@/engine/pool";
import { Refusal, resultOf, serve } from "../../serve";
import { askingBy, behind, offered } from "../behind";

export const dynamic = "force-dynamic";

export const POST = serve(getSharedPick, async ({ body: { link, pick: name, picks }, request }) => {
  const { saved } = await behind(link);
  const asking = askingBy(link, request);
  const pick = saved.body.picks.find((one) => one.name === name);
  if (!pick) throw new Refusal(403, { title: "No such pick", detail: `the sheet of this link has no pick ${name}` });
  const chosen = await offered(picksBefore(saved.body.picks, pick), picks, asking);
  return resultOf(await runJob({ type: "pick values", source: pick.source, picks: picksFor(pick, chosen) }, asking));
});
