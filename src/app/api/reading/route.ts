import { answerReading } from "@/core/api/calls/readings";
import { runJob } from "@/engine/pool";
import { jsonResponse } from "../jsonResponse";
import { resultOf, serve } from "../serve";

export const dynamic = "force-dynamic";

/** The version in an If-None-Match header (RFC 9110, section 13.1.2); null where there is none of ours. */
function knownIn(header: string | null): string | null {
  return /"([\w-]{24})"/.exec(header ?? "")?.[1] ?? null;
}

export const GET = serve(answerReading, async ({ query: { every, ...rest }, request, heads, asking }) => {
  const known = knownIn(request.headers.get("if-none-match"));
  const job = { type: "versioned reading", ...rest, every: every ?? null, known } as const;
  const { value, version } = resultOf(await runJob(job, asking));
  if (version !== null) heads.set("ETag", `W/"${version}"`);
  // What stands is kept by browsers and asked after each time; what moves on is never asked for again.
  heads.set("Cache-Control", version === null ? "no-store" : "private, no-cache");
  return value ? jsonResponse(value, heads) : new Response(null, { status: 304, headers: heads });
});
