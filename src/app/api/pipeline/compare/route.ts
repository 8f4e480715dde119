import { compareCopies } from "@/core/api/calls/pipeline";
import type { CopyAnswer } from "@/core/api/copies";
import { inUnit } from "@/core/reading/convert";
import { sideBySide } from "@/core/reading/differences";
import { runJob } from "@/engine/pool";
import { askIntake } from "../../intake";
import { Refusal, resultOf, serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(compareCopies, async ({ query: { exporter, every, ...asked }, asking }) => {
  const stored = resultOf(await runJob({ type: "reading", ...asked, every: every ?? null, picks: {} }, asking));
  const question = { exporter, ...asked, every: stored.every };
  const copy = (await askIntake("/copies", question, "Not compared")) as CopyAnswer;
  if (!copy.ok) throw new Refusal(400, copy.problem);
  const same = inUnit(copy.value, stored.unit);
  if (same) return { store: stored, copy: same, pairs: sideBySide(stored, same) };
  throw new Refusal(400, {
    title: "Not compared",
    detail: `the store has it in ${stored.unit || "no unit"}, the copy in ${copy.value.unit || "no unit"}`,
  });
});
