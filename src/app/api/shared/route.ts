import { getShared } from "@/core/api/calls/shared";
import { serve } from "../serve";
import { behind } from "./behind";

export const dynamic = "force-dynamic";

export const GET = serve(getShared, async ({ query: { link } }) => {
  const { saved, endsAt } = await behind(link);
  // Who else may see it is nobody's business here.
  return { sheet: { ...saved.body, readers: [] }, savedAt: saved.at, endsAt };
});
