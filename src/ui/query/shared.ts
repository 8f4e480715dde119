import type { ReadingResult } from "@/core/reading/result";
import { ApiProblem, ask } from "./api";
import type { WantedReading } from "./together";

/** Readings of a sheet that is seen by a link: those of one moment over one window go in one request. */

interface Waiting extends WantedReading {
  resolve: (result: ReadingResult) => void;
  reject: (error: unknown) => void;
}

const MOST = 60;

async function send(link: string, group: readonly Waiting[]): Promise<void> {
  const [{ span, zone, picks }] = group;
  try {
    const body = {
      link,
      readings: group.map(({ text }) => text),
      from: span.from,
      to: span.to,
      zone,
      picks: picks as Record<string, string[]>,
    };
    const answers = await ask("POST /api/shared/readings", { body });
    answers.forEach((answer, i) => {
      if (answer.ok) group[i].resolve(answer.value);
      else group[i].reject(new ApiProblem(answer.problem, answer.status));
    });
  } catch (error) {
    for (const one of group) one.reject(error);
  }
}

const askers = new Map<string, (wanted: WantedReading, signal: AbortSignal) => Promise<ReadingResult>>();

/** Answers readings by a link. */
export function askShared(link: string): (wanted: WantedReading, signal: AbortSignal) => Promise<ReadingResult> {
  const known = askers.get(link);
  if (known) return known;
  let waiting: Waiting[] = [];
  const flush = () => {
    const groups = new Map<string, Waiting[]>();
    for (const one of waiting) {
      const key = JSON.stringify([one.span.from, one.span.to, one.zone, one.picks]);
      groups.set(key, [...(groups.get(key) ?? []), one]);
    }
    waiting = [];
    for (const group of groups.values())
      for (let first = 0; first < group.length; first += MOST) void send(link, group.slice(first, first + MOST));
  };
  const asker = (wanted: WantedReading) =>
    new Promise<ReadingResult>((resolve, reject) => {
      if (waiting.length === 0) setTimeout(flush);
      waiting.push({ ...wanted, resolve, reject });
    });
  askers.set(link, asker);
  return asker;
}
