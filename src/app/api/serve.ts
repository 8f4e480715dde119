import type { z } from "zod";
import { KeyRefused, nameOf } from "@/access/callers";
import { personWith } from "@/access/people";
import { type Caller, may, whatIsNeeded } from "@/core/access/rights";
import { queryObject } from "@/core/api/address";
import { type Call, isPlain, type Plain, type Taken } from "@/core/api/call";
import type { Problem } from "@/core/api/readings";
import { Sparing } from "@/core/cache/sparing";
import { CALLER_HEADER } from "@/core/http/callerHeader";
import { networkOf } from "@/core/http/network";
import type { AttributeValue } from "@/core/metric/model";
import { isStorableValue } from "@/core/otlp/limits";
import type { Outcome } from "@/engine/outcome";
import type { Asking } from "@/engine/pool";
import { putOnRecord } from "@/store/access/record";
import { answering, badRequest, bodyText, jsonOf, later, problem, tooMany, unknownCaller } from "./answer";
import { callerFrom } from "./caller";
import { database } from "./database";
import { TooManyTurns, Turns } from "./turns";

/** Handlers of calls: given what was asked as the call's schemas read it, they return what the call answers. */

/** What a handler refuses, with a status that its call declares. */
export class Refusal extends Error {
  override name = "Refusal";
  constructor(
    readonly status: number,
    readonly content: Problem,
    /** For how long to wait before asking again, ms. */
    readonly wait = 0,
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
  caller: Caller;
  /** Where the caller is. */
  address: string;
  /** Heads that go with the answer, such as cookies. */
  heads: Headers;
  /** Whether who asks wants nothing that was counted before. */
  fresh: boolean;
  /** For whom readings are answered: each caller has a share of the threads. */
  asking: Asking;
}

/** What a handler gives: the answer in the form of the call's schema, or a whole response: no JSON, or JSON that a thread wrote. */
type Answer<A extends z.ZodType | Plain> = A extends z.ZodType ? z.input<A> | Response : Response;

/** Answers that count what is stored take at most two per cent of a processor each, and are at most a minute old. */
const here = globalThis as typeof globalThis & { tinLadderCounts?: Sparing };
here.tinLadderCounts ??= new Sparing(50, 60_000, 200);
const counted = here.tinLadderCounts;

/** Whether who asks wants nothing that was kept. */
function wantsNew({ headers }: Request): boolean {
  return /no-(?:cache|store)/.test(headers.get("cache-control") ?? "");
}

/**
 * Requests under way of each caller: others wait, so that nobody takes all connections to the store. Who is not signed in
 * has fewer, counted by where they are, before anything is asked of the store.
 */
const turns = {
  known: new Turns({ atOnce: 12, waiting: 300 }),
  unknown: new Turns({ atOnce: 4, waiting: 40 }),
};
/** Calls that ask nothing of the store: they are answered whatever else waits. */
const FREE = new Set(["/api/health", "/api/openapi.json"]);
const TOO_MANY: Problem = {
  title: "Too many requests at once",
  detail: "more of your requests are waiting than are kept for one caller; ask again in a moment",
};

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

/** After how long who asked too much at once is told to ask again, ms. */
const WAIT = 2000;

/** The value of an outcome of the engine. @throws Refusal with its problem */
export function resultOf<T>(outcome: Outcome<T>): T {
  if (outcome.ok) return outcome.value;
  throw new Refusal(outcome.status, outcome.problem, outcome.status === 429 ? WAIT : 0);
}

async function bodyOf(body: z.ZodType | Plain, method: string, request: Request): Promise<unknown> {
  if (isPlain(body)) return bodyText(request, MAX_FILE);
  if (method === "GET") return {};
  const text = await bodyText(request, MAX_JSON);
  // A call that takes nothing may come without a body.
  return text === "" ? {} : jsonOf(text);
}

/** Who asks, if they may. @throws Refusal where they may not, with what is needed */
async function permitted(call: Call, request: Request): Promise<Caller> {
  let caller: Caller;
  try {
    caller = await callerFrom(request.headers);
  } catch (error) {
    if (!(error instanceof KeyRefused)) throw error;
    if (call.right === "anybody") return { kind: "nobody" };
    throw new Refusal(401, { title: "The key is not taken", detail: error.message });
  }
  if (may(caller, call)) return caller;
  const known = caller.kind !== "nobody";
  const detail = whatIsNeeded(caller, call);
  throw new Refusal(known ? 403 : 401, { title: known ? "Not allowed" : "Not signed in", detail });
}

function askingOf(caller: Caller, address: string, { signal }: Request): Asking {
  return { caller: caller.kind === "nobody" ? `address ${networkOf(address)}` : `${caller.kind} ${caller.id}`, signal };
}

/** Puts something on record that a caller did. */
export function record(
  { caller, address }: Pick<Asked<z.ZodType, z.ZodType, z.ZodType>, "caller" | "address">,
  did: string,
  about = "",
): Promise<void> {
  const account = caller.kind === "account" ? caller.id : null;
  return putOnRecord(database(), { who: nameOf(caller), account, did, about, address });
}

/** Puts something on record that somebody did who is not signed in yet. @param who the address that they gave */
export function recordNamed(who: string, did: string, address: string): Promise<void> {
  return putOnRecord(database(), { who, account: null, did, about: "", address });
}

/** Puts something on record of the account with an address, which showed that it is theirs. */
export async function recordOwn(email: string, did: string, address: string): Promise<void> {
  const person = await personWith(database(), email);
  await putOnRecord(database(), { who: person?.name ?? email, account: person?.id ?? null, did, about: "", address });
}

/** The handler of a call as a route exports it. */
export function serve<
  P extends z.ZodType,
  Q extends z.ZodType,
  B extends z.ZodType | Plain,
  A extends z.ZodType | Plain,
>(call: Call<P, Q, B, A>, handle: (asked: Asked<P, Q, B>) => Promise<Answer<A>> | Answer<A>) {
  const answer = async (request: Request, context: { params: Promise<unknown> }, caller: Caller): Promise<Response> => {
    const params = call.params.safeParse((await context.params) ?? {});
    if (!params.success) return badRequest(params.error);
    refuseNoText(params.data);
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
    const address = request.headers.get(CALLER_HEADER) ?? "";
    const asked = {
      params: params.data,
      query: query.data,
      body: body as Taken<B>,
      request,
      caller,
      address,
      heads: new Headers(),
      fresh: wantsNew(request),
      asking: askingOf(caller, address, request),
    };
    const found =
      call.counts && !wantsNew(request)
        ? await counted.answer(`${call.path} ${JSON.stringify(query.data)}`, async () => handle(asked))
        : await handle(asked);
    // What somebody changes who may only look is counted nowhere.
    if (call.changes && call.right !== "see") counted.clear();
    if (call.did !== null) await record(asked, call.did, call.about(asked));
    return found instanceof Response ? found : Response.json(found, { status: call.status, headers: asked.heads });
  };
  return (request: Request, context: { params: Promise<unknown> }): Promise<Response> =>
    answering(async () => {
      try {
        const address = request.headers.get(CALLER_HEADER) ?? "";
        if (call.right === "anybody" && !FREE.has(call.path))
          return await turns.unknown.run(networkOf(address), async () =>
            answer(request, context, await permitted(call as unknown as Call, request)),
          );
        const caller = await permitted(call as unknown as Call, request);
        return await turns.known.run(askingOf(caller, address, request).caller, () => answer(request, context, caller));
      } catch (error) {
        if (error instanceof TooManyTurns) return tooMany(TOO_MANY, WAIT);
        if (!(error instanceof Refusal)) throw error;
        if (error.status === 401) return unknownCaller(error.content);
        if (error.wait > 0) return tooMany(error.content, error.wait);
        return error.status === 503 ? later(error.content) : problem(error.status, error.content);
      }
    });
}
