import type { Attributes } from "@/core/metric/model";
import { Converter } from "@/core/openmetrics/convert";
import type { Dialect, Family } from "@/core/openmetrics/model";
import { ExpositionReader } from "@/core/openmetrics/read";
import { Batch } from "@/core/otlp/batch/batch";
import { Dictionary } from "@/core/otlp/dictionary";
import { outgoing } from "@/core/otlp/outgoing";
import { metricsRequest } from "@/core/otlp/writeJson";
import { type Intake, Refused } from "./intake";
import type { Imported, Problems } from "./problems";
import type { Source } from "./source";

/** Samples that go out together. */
const TOGETHER = 5000;

/** Sends the points of a text of OpenMetrics or its predecessor, in the name of `resource`; those without a time as of now. */
export async function importExposition(
  source: Source,
  dialect: Dialect,
  resource: Attributes,
  intake: Intake,
  problems: Problems,
): Promise<Imported> {
  const done: Imported = { points: 0, refused: 0 };
  let waiting: Family[] = [];
  let samples = 0;
  const dictionary = new Dictionary();
  const converter = new Converter(dictionary);
  const now = Date.now();
  const flush = async () => {
    if (waiting.length === 0) return;
    const place = waiting.length === 1 ? `line ${waiting[0].line} on` : `lines ${waiting[0].line} on`;
    const batch = new Batch();
    converter.add(waiting, batch, resource, now);
    waiting = [];
    samples = 0;
    if (batch.message() !== "") problems.add(place, batch.message());
    done.refused += batch.rejected;
    const { metrics, naming } = outgoing(batch);
    try {
      const { rejected, message } = await intake.send(metricsRequest(metrics, naming));
      if (message !== "") problems.add(place, message);
      done.points += batch.points - rejected;
      done.refused += rejected;
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      problems.add(place, error.message);
      done.refused += batch.points;
    }
    dictionary.trim();
  };
  const reader = new ExpositionReader(
    dialect,
    (family) => {
      waiting.push(family);
      samples += family.samples.length;
    },
    ({ line, text, message }) => problems.add(`line ${line}`, text === "" ? message : `${message}: ${text}`),
    TOGETHER,
  );
  for await (const block of source.blocks) {
    reader.feed(block);
    if (samples >= TOGETHER) await flush();
  }
  reader.end();
  await flush();
  return done;
}
