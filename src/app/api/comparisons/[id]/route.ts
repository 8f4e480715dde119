import { getKeptComparison } from "@/core/api/calls/comparisons";
import { comparisonAnswer } from "@/core/api/comparison";
import { findComparison } from "@/store/releases/comparisons";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getKeptComparison, async ({ params: { id } }) => {
  const found = await findComparison(database(), id);
  if (!found) throw new Refusal(404, { title: "No such comparison", detail: `no comparison ${id} was kept` });
  const kept = comparisonAnswer.safeParse(found.content);
  if (!kept.success)
    throw new Refusal(404, {
      title: "Kept by another version",
      detail: `comparison ${id} cannot be shown by this version`,
    });
  return { keptAt: found.at, who: found.who, comparison: kept.data };
});
