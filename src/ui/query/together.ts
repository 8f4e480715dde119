import type { Problem } from "@/core/api/readings";
import type { ReadingResult } from "@/core/reading/result";
import type { Chosen } from "@/core/sheet/chosen";
import type { Span } from "@/core/window/window";
import { ApiProblem, ask, linesOf } from "./api";

/**
 * Readings that a page asks at the same moment, over the same window, go in one request; each is answered as soon as it is
 * there. One that nobody wants any more is let go of, and the request with the last of them.
 */

export interface WantedReading {
  text: string;
  span: Span;
  zone: string;
  /** What is chosen of picks, by name; an empty list: all. */
  picks: Chosen;
  /** The answer that the page has: where it is still the same, nothing comes. */
  held?: VersionedResult | undefined;
}

/** An answer with its version, where it has one: of a window that is over. */
export type VersionedResult = ReadingResult & { version?: string };

export interface Waiting extends WantedReading {
  signal: AbortSignal;
  resolve: (result: VersionedResult) => void;
  reject: (error: unknown) => void;
}

/** A line of the answer: the place of the reading among those that were asked, and how it went. */
type AnswerLine = { place: number } & (
  | { ok: true; value: ReadingResult | null; version: string | null }
  | { ok: false; status: number; problem: Problem }
);

/** Readings that one request may hold. */
const MAX_TOGETHER = 60;

/** Asks readings, each together with those that are asked in the same moment. @throws ApiProblem with what is wrong */
export type Asker = (wanted: WantedReading, signal: AbortSignal) => Promise<VersionedResult>;

/** An asker that hands readings of one moment, over one window, on as a group. */
export function gathering(sendGroup: (group: readonly Waiting[]) => Promise<void>): Asker {
  let waiting: Waiting[] = [];
  const send = () => {
    const groups = new Map<string, Waiting[]>();
    for (const one of waiting) {
      const { from, to } = one.span;
      const key = JSON.stringify([from, to, one.zone, one.picks]);
      groups.set(key, [...(groups.get(key) ?? []), one]);
    }
    waiting = [];
    for (const group of groups.values())
      for (let first = 0; first < group.length; first += MAX_TOGETHER)
        void sendGroup(group.slice(first, first + MAX_TOGETHER));
  };
  return (wanted, signal) =>
    new Promise((resolve, reject) => {
      if (waiting.length === 0) setTimeout(send);
      waiting.push({ ...wanted, signal, resolve, reject });
    });
}

/** A signal that is given when nobody of a group wants an answer any more; who does not is told so at once. */
export function allLeft(group: readonly Waiting[]): AbortSignal {
  const whole = new AbortController();
  let wanted = group.length;
  for (const one of group)
    one.signal.addEventListener("abort", () => {
      one.reject(one.signal.reason);
      if (--wanted === 0) whole.abort();
    });
  return whole.signal;
}

/** Answers a reading for who is signed in. */
export const askReading = gathering(sendGroup);

async function sendGroup(group: readonly Waiting[]): Promise<void> {
  const [{ span, zone, text, signal, picks }] = group;
  const { from, to } = span;
  if (group.length === 1) {
    const [{ resolve, reject }] = group;
    return ask(
      "GET /api/reading",
      { query: { text, from, to, zone, picks: picks as Record<string, string[]> } },
      signal,
    ).then(resolve, reject);
  }
  const left = allLeft(group);
  try {
    const body = {
      readings: group.map((one) => ({ text: one.text, known: one.held?.version ?? null })),
      from,
      to,
      zone,
      picks: picks as Record<string, string[]>,
    };
    for await (const line of linesOf("POST /api/readings/lines", { body }, left)) {
      const answer = JSON.parse(line) as AnswerLine;
      const one = group[answer.place];
      if (!answer.ok) one.reject(new ApiProblem(answer.problem, answer.status));
      else if (answer.value === null) one.resolve(one.held!);
      else one.resolve(answer.version === null ? answer.value : { ...answer.value, version: answer.version });
    }
    const lost = new ApiProblem({ title: "No answer", detail: "the answer broke off before it was whole" }, 0);
    for (const one of group) one.reject(lost);
  } catch (error) {
    for (const one of group) one.reject(error);
  }
}
