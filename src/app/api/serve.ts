import type { z } from "zod";
import { queryObject } from "@/core/api/address";
import { type Call, isPlain, type Plain, type Taken } from "@/core/api/call";
import type { Problem } from "@/core/api/readings";
import { Sparing } from "@/core/cache/sparing";
import type { AttributeValue } from "@/core/metric/model";
import { isStorableValue } from "@/core/otlp/limits";
import type { Outcome } from "@/engine/outcome";
import { answering, badRequest, bodyText, jsonOf, later, problem } from "./answer";

/** Handlers of calls: given what was asked as the call's schemas read it, they return what the call answers. */

/** What a handler refuses, with a status that its call declares. */
export class Refusal extends Error {
  override name = "Refusal";
  constructor(
    readonly status: number,
    readonly content: Problem,
  ) {
    super(content.detail);
  }
}

/** What was asked. */
interface Asked<P extends z.ZodType, Q extends z.ZodType, B extends z.ZodType | Plain> {
  params: z.output<P>;
  query: z.output<Q>;
  body: Taken<B>;
  request: Request;
  /** Whether who asks wants nothing that was counted before. */
  fresh: boolean;
}

/** What a handler gives: the answer in the form of the call's schema, or a whole response where it is no JSON. */
type Answer<A extends z.ZodType | Plain> = A extends z.ZodType ? z.input<A> : Response;

/** Answers that count what is stored take at most two per cent of a processor each, and are at most a minute old. */
const here = globalThis as typeof globalThis & { tinLadderCounts?: Sparing };
here.tinLadderCounts ??= new Sparing(50, 60_000, 200);
const counted = here.tinLadderCounts;

/** Whether who asks wants nothing that was kept. */
function wantsNew({ headers }: Request): boolean {
  return /no-(?:cache|store)/.test(headers.get("cache-control") ?? "");
}

/** Characters of a body that is JSON. */
const MAX_JSON = 256 * 1024;
/** Characters of a file. */
const MAX_FILE = 8 * 1024 * 1024;

/** Refuses what no text is: the store cannot keep it. */
function refuseNoText(value: unknown): void {
  if (isStorableValue((value ?? "") as AttributeValue)) return;
  const detail = "it has characters that are no text (NUL or a broken pair)";
  throw new Refusal(400, { title: "The request is not understood", detail });
}

/** The value of an outcome of the engine. @throws Refusal with its problem */
export function resultOf<T>(outcome: Outcome<T>): T {
  if (outcome.ok) return outcome.value;
  throw new Refusal(outcome.status, outcome.problem);
}

async function bodyOf(body: z.ZodType | Plain, method: string, request: Request): Promise<unknown> {
  if (isPlain(body)) return bodyText(request, MAX_FILE);
  if (method === "GET") return {};
  const text = await bodyText(request, MAX_JSON);
  // A call that takes nothing may come without a body.
  return text === "" ? {} : jsonOf(text);
}

/** The handler of a call as a route exports it. */
export function serve<
  P extends z.ZodType,
  Q extends z.ZodType,
  B extends z.ZodType | Plain,
  A extends z.ZodType | Plain,
>(call: Call<P, Q, B, A>, handle: (asked: Asked<P, Q, B>) => Promise<Answer<A>> | Answer<A>) {
  return (request: Request, context: { params: Promise<unknown> }): Promise<Response> =>
    answering(async () => {
      try {
        const params = call.params.safeParse((await context.params) ?? {});
        if (!params.success) return badRequest(params.error);
        const query = call.query.safeParse(queryObject(new URL(request.url).searchParams));
        if (!query.success) return badRequest(query.error);
        let body = await bodyOf(call.body, call.method, request);
        if (!isPlain(call.body)) {
          const parsed = call.body.safeParse(body);
          if (!parsed.success) return badRequest(parsed.error);
          body = parsed.data;
          refuseNoText(body);
        }
        refuseNoText(query.data);
        const asked = {
          params: params.data,
          query: query.data,
          body: body as Taken<B>,
          request,
          fresh: wantsNew(request),
        };
        const answer =
          call.counts && !wantsNew(request)
            ? await counted.answer(`${call.path} ${JSON.stringify(query.data)}`, async () => handle(asked))
            : await handle(asked);
        // What somebody changes who may only look is counted nowhere.
        if (call.changes && call.right !== "see") counted.clear();
        return answer instanceof Response ? answer : Response.json(answer, { status: call.status });
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        return error.status === 503 ? later(error.content) : problem(error.status, error.content);
      }
    });
}
