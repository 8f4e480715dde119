import { type Intake, Refused } from "./intake";
import type { Imported, Problems } from "./problems";
import { type Line, linesOf, type Source } from "./source";

/** Characters of lines that go out together. */
const TOGETHER = 2 * 1024 * 1024;

interface Parsed {
  number: number;
  resourceMetrics: unknown[];
}

function parsed({ text, number }: Line, problems: Problems): Parsed | null {
  try {
    const value = JSON.parse(text) as { resourceMetrics?: unknown } | null;
    if (Array.isArray(value?.resourceMetrics)) return { number, resourceMetrics: value.resourceMetrics };
    problems.add(`line ${number}`, "no OTLP metrics request: it has no list resourceMetrics");
  } catch (error) {
    problems.add(`line ${number}`, `not JSON: ${(error as Error).message}`);
  }
  return null;
}

/** How many data points a request holds. */
function pointsIn(value: unknown): number {
  if (Array.isArray(value)) return value.reduce<number>((sum, one) => sum + pointsIn(one), 0);
  if (typeof value !== "object" || value === null) return 0;
  return Object.entries(value).reduce(
    (sum, [key, inner]) => sum + (key === "dataPoints" && Array.isArray(inner) ? inner.length : pointsIn(inner)),
    0,
  );
}

/**
 * Sends OTLP JSON lines, each a metrics request, several in one. Where the intake does not take all of them, they are
 * sent again line by line to find out which are wrong: a point that was stored already is only stored once.
 */
export async function importLines(source: Source, intake: Intake, problems: Problems): Promise<Imported> {
  const done: Imported = { points: 0, refused: 0 };
  let waiting: Parsed[] = [];
  let size = 0;
  const flush = async () => {
    const lines = waiting;
    waiting = [];
    size = 0;
    if (lines.length > 1 && (await goesIn(lines, intake))) {
      done.points += pointsIn(lines);
      return;
    }
    for (const line of lines) await single(line, intake, problems, done);
  };
  for await (const line of linesOf(source)) {
    const one = parsed(line, problems);
    if (!one) continue;
    waiting.push(one);
    size += line.text.length;
    if (size >= TOGETHER) await flush();
  }
  await flush();
  return done;
}

async function goesIn(lines: readonly Parsed[], intake: Intake): Promise<boolean> {
  try {
    const { rejected, message } = await intake.send({
      resourceMetrics: lines.flatMap(({ resourceMetrics }) => resourceMetrics),
    });
    return rejected === 0 && message === "";
  } catch (error) {
    if (error instanceof Refused) return false;
    throw error;
  }
}

async function single({ number, resourceMetrics }: Parsed, intake: Intake, problems: Problems, done: Imported) {
  try {
    const { rejected, message } = await intake.send({ resourceMetrics });
    done.points += pointsIn(resourceMetrics) - rejected;
    done.refused += rejected;
    if (message !== "") problems.add(`line ${number}`, message);
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    done.refused += pointsIn(resourceMetrics);
    problems.add(`line ${number}`, error.message);
  }
}
