import { nameOf } from "@/access/callers";
import { getLadderSetting, setLadderSetting } from "@/core/api/calls/releases";
import { USUAL_SETTING } from "@/core/release/setting";
import { findLadderSetting, setLadderSetting as keep } from "@/store/releases/ladderSettings";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getLadderSetting, async ({ query: { service, environment } }) => {
  const found = await findLadderSetting(database(), service, environment);
  return found
    ? { setting: found.content, changedBy: found.changedBy, changedAt: found.changedAt }
    : { setting: USUAL_SETTING, changedBy: null, changedAt: null };
});

export const PUT = serve(setLadderSetting, async ({ body: { service, environment, setting }, caller }) => {
  await keep(database(), { service, environment }, setting, nameOf(caller));
  return {};
});
