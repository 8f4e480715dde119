import type pg from "pg";
import { mergeAll } from "../e2e/points";
import { type Answer, differences } from "./check";
import { scenarioOf } from "./scenario";

/** Differential rounds against a running system: sent as a sender would, asked at once, and again once it is merged. */

export interface System {
  web: string;
  intake: string;
  pool: pg.Pool;
}

/** Rounds after which everything is merged and asked again. */
const TOGETHER = 40;

async function ask(web: string, text: string, from: number, to: number, every: string): Promise<Answer> {
  const query = new URLSearchParams({ text, from: String(from), to: String(to), every });
  const response = await fetch(`${web}/api/reading?${query}`);
  const body = await response.text();
  if (!response.ok) throw new Error(`${text}: ${response.status} ${body}`);
  return JSON.parse(body) as Answer;
}

async function send(intake: string, body: object): Promise<void> {
  const response = await fetch(`${intake}/v1/metrics`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
  const text = await response.text();
  if (response.status !== 200 || text.includes("rejected")) throw new Error(`sent: ${response.status} ${text}`);
}

/**
 * Runs rounds, each by its seed.
 *
 * @param progress told how many are done
 * @param longest after this no further rounds begin, ms: a slow machine does fewer of them
 * @returns what differed, with the seed of each
 */
export async function fuzz(
  { web, intake, pool }: System,
  seed: number,
  rounds: number,
  progress: (done: number) => void = () => {},
  longest = Number.POSITIVE_INFINITY,
): Promise<string[]> {
  const wrong: string[] = [];
  const begun = Date.now();
  const asking = (text: string, from: number, to: number, every: string) => ask(web, text, from, to, every);
  for (let at = 0; at < rounds && wrong.length < 10 && Date.now() - begun < longest; at += TOGETHER) {
    const scenarios = Array.from({ length: Math.min(TOGETHER, rounds - at) }, (_, i) =>
      scenarioOf(seed + at + i, Date.now()),
    );
    const look = async (age: string) => {
      for (const scenario of scenarios) {
        const { name, kind, temporality, twins } = scenario;
        const found = await differences(scenario, asking).catch((error: Error) => [error.message]);
        for (const one of found.slice(0, 3))
          wrong.push(`${name} ${kind} ${temporality} twins ${twins}, ${age}: ${one}`);
      }
    };
    for (const { requests } of scenarios) for (const request of requests) await send(intake, request);
    await look("just sent");
    await mergeAll(pool, Date.now() + 24 * 3600_000);
    await look("merged");
    progress(at + scenarios.length);
  }
  return wrong;
}
