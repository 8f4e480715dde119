import type { CopyAnswer } from "@/core/api/copies";
import { inUnit } from "@/core/reading/convert";
import { sideBySide } from "@/core/reading/differences";
import { runJob } from "@/engine/pool";
import { answering, badRequest, outcome, problem } from "../../answer";
import { askIntake } from "../../intake";
import { readingQuery } from "../../query";

export const dynamic = "force-dynamic";

/** GET /api/pipeline/compare?exporter=&text=&from=&to=&every=&zone=: one reading from the store and from a copy. */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const { searchParams } = new URL(request.url);
    const query = readingQuery.safeParse(Object.fromEntries(searchParams));
    if (!query.success) return badRequest(query.error);
    const { every, text, from, to, zone } = query.data;
    const stored = await runJob(
      { type: "reading", text, from, to, zone, every: every ?? null, picks: {} },
      request.signal,
    );
    if (!stored.ok) return outcome(stored);
    const question = { exporter: searchParams.get("exporter") ?? "", text, from, to, zone, every: stored.value.every };
    const answer = await askIntake("/copies", question, "Not compared");
    if (answer instanceof Response) return answer;
    const copy = answer as CopyAnswer;
    if (!copy.ok) return problem(400, copy.problem);
    const same = inUnit(copy.value, stored.value.unit);
    if (same) return Response.json({ store: stored.value, copy: same, pairs: sideBySide(stored.value, same) });
    return problem(400, {
      title: "Not compared",
      detail: `the store has it in ${stored.value.unit || "no unit"}, the copy in ${copy.value.unit || "no unit"}`,
    });
  });
}
