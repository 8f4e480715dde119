import { queryText } from "@/core/api/address";
import type { Contract } from "@/core/api/calls";
import { CALLER_HEADER } from "@/core/http/callerHeader";
import type { Result } from "@/ui/query/api";
import type { Question } from "@/ui/query/questions";
import { GET as catalogue } from "../api/catalogue/route";
import { GET as comparison } from "../api/comparison/route";
import { GET as keptComparison } from "../api/comparisons/[id]/route";
import { GET as findings } from "../api/findings/route";
import { GET as home } from "../api/home/route";
import { GET as instruments } from "../api/instruments/route";
import { GET as ladder } from "../api/ladder/route";
import { GET as me } from "../api/me/route";
import { GET as overview } from "../api/overview/route";
import { POST as pickValues } from "../api/picks/values/route";
import { GET as rail } from "../api/rail/route";
import { GET as reading } from "../api/reading/route";
import { POST as readings } from "../api/readings/route";
import { GET as releases } from "../api/releases/route";
import { GET as senders } from "../api/senders/route";
import { GET as serviceMetrics } from "../api/services/metrics/route";
import { GET as services } from "../api/services/route";
import { GET as serviceSections } from "../api/services/sections/route";
import { GET as sheetDraft } from "../api/sheets/[id]/draft/route";
import { GET as sheet } from "../api/sheets/[id]/route";
import { GET as sheets } from "../api/sheets/route";
import { GET as slow } from "../api/slow/route";
import { GET as store } from "../api/store/route";
import { GET as targets } from "../api/targets/route";

/** Asks the API inside its own process, by the very handlers that answer over HTTP: one way in, and one check of it. */

type Handler = (request: Request, context: { params: Promise<unknown> }) => Promise<Response>;

const HANDLERS = {
  "GET /api/catalogue": catalogue,
  "GET /api/findings": findings,
  "GET /api/comparison": comparison,
  "GET /api/comparisons/{id}": keptComparison,
  "GET /api/home": home,
  "GET /api/instruments": instruments,
  "GET /api/ladder": ladder,
  "GET /api/me": me,
  "GET /api/overview": overview,
  "GET /api/rail": rail,
  "GET /api/reading": reading,
  "POST /api/picks/values": pickValues,
  "POST /api/readings": readings,
  "GET /api/releases": releases,
  "GET /api/senders": senders,
  "GET /api/services": services,
  "GET /api/services/metrics": serviceMetrics,
  "GET /api/services/sections": serviceSections,
  "GET /api/sheets": sheets,
  "GET /api/sheets/{id}": sheet,
  "GET /api/sheets/{id}/draft": sheetDraft,
  "GET /api/slow": slow,
  "GET /api/store": store,
  "GET /api/targets": targets,
} satisfies { [K in keyof Contract]?: Handler };

/** Calls that can be asked here. */
export type Here = keyof typeof HANDLERS;

/** Asks a question and keeps its answer for the browser; null where there is none, which the browser then asks for. */
export type Take = <K extends Here>(question: Question<K>) => Promise<Result<Contract[K]> | null>;

/** An answer, and how long it is as text, characters. */
export interface Answered<K extends Here> {
  answer: Result<Contract[K]>;
  size: number;
}

/**
 * @param as the headers of whoever opens the page: the answer is what they may see
 * @throws Error where the API refuses: the browser then asks by itself, and tells why
 */
export async function askHere<K extends Here>({ call, input }: Question<K>, as: Headers): Promise<Answered<K>> {
  const { params = {}, query, body } = input as { params?: Record<string, string>; query?: object; body?: unknown };
  const [method, path] = call.split(" ");
  const headers = new Headers({ "Content-Type": "application/json" });
  for (const name of ["cookie", CALLER_HEADER]) {
    const value = as.get(name);
    if (value !== null) headers.set(name, value);
  }
  const sent = body === undefined ? {} : { body: JSON.stringify(body) };
  const request = new Request(`http://localhost${path}?${queryText({ ...query })}`, { method, headers, ...sent });
  const response = await (HANDLERS[call] as Handler)(request, { params: Promise.resolve(params) });
  if (!response.ok) throw new Error(`${call} answered ${response.status}`);
  const text = await response.text();
  return { answer: JSON.parse(text) as Result<Contract[K]>, size: text.length };
}
