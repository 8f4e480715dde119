import { ApiProblem, ask } from "./api";
import { type Asker, allLeft, gathering, type Waiting } from "./together";

/** Readings of a sheet that is seen by a link. */

async function sendGroup(link: string, group: readonly Waiting[]): Promise<void> {
  const [{ span, zone, picks }] = group;
  const { from, to } = span;
  const readings = group.map(({ text }) => text);
  try {
    const body = { link, readings, from, to, zone, picks: picks as Record<string, string[]> };
    const answers = await ask("POST /api/shared/readings", { body }, allLeft(group));
    answers.forEach((answer, i) => {
      if (answer.ok) group[i].resolve(answer.value);
      else group[i].reject(new ApiProblem(answer.problem, answer.status));
    });
  } catch (error) {
    for (const one of group) one.reject(error);
  }
}

const askers = new Map<string, Asker>();

/** Answers readings by a link. */
export function askShared(link: string): Asker {
  const known = askers.get(link);
  if (known) return known;
  const asker = gathering((group) => sendGroup(link, group));
  askers.set(link, asker);
  return asker;
}
