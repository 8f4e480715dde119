import { Batch, type SideOutputs } from "./batch/batch";
import type { KnownSeries } from "./dictionary";

/** Taking a batch apart, to find what in it the store refuses. */

function halves<T>(all: readonly T[]): [readonly T[], readonly T[]] {
  const middle = all.length >> 1;
  return [all.slice(0, middle), all.slice(middle)];
}

/** The points of some series out of a batch, which keeps the others. */
function take(batch: Batch, taken: ReadonlySet<KnownSeries>): Batch {
  const out = new Batch();
  out.silent = batch.silent;
  batch.reroute((series) => [{ batch: taken.has(series) ? out : batch, series }]);
  return out;
}

function withAside(aside: SideOutputs, part: Partial<SideOutputs>): Batch {
  const batch = new Batch();
  const none: SideOutputs = { version: aside.version, waiting: [], undecided: [], spans: [], records: [], exports: [] };
  batch.sideOutputs = { ...none, ...part };
  return batch;
}

/** The parts of what was taken aside: a kind each where there are several, else half of the one there is. */
function partsOfAside(aside: SideOutputs): Batch[] {
  const kinds = (["waiting", "undecided", "spans", "records", "exports"] as const).filter(
    (kind) => aside[kind].length > 0,
  );
  if (kinds.length > 1) return kinds.map((kind) => withAside(aside, { [kind]: aside[kind] }));
  const [kind] = kinds;
  if (!kind || aside[kind].length < 2) return [];
  return halves<unknown>(aside[kind]).map((some) => withAside(aside, { [kind]: some }));
}

/**
 * Two or more batches that hold together what a batch holds; none where it cannot be taken apart any further. The parts of
 * a request have ids of their own, the same each time that it comes to the same version of the pipeline: one that is sent
 * again, because its sender was not answered, is not stored again in parts.
 */
export function divided(batch: Batch): Batch[] {
  const { request, sideOutputs } = batch;
  const version = sideOutputs?.version ?? 0;
  const parts = partsOf(batch);
  if (request !== null) for (const [i, part] of parts.entries()) part.request = `${request}.${version}.${i}`;
  return parts;
}

function partsOf(batch: Batch): Batch[] {
  const { sideOutputs: aside } = batch;
  const series = [...new Set(batch.series())];
  if (aside && batch.points > 0) {
    const points = take(batch, new Set(series));
    return [points, withAside(aside, aside)];
  }
  if (aside) return partsOfAside(aside);
  if (series.length < 2) return [];
  const [some] = halves(series);
  const first = take(batch, new Set(some));
  const second = take(batch, new Set(series));
  return [first, second];
}

/** What a batch is about that cannot be taken apart, in words. */
export function subjectOf(batch: Batch): string {
  const [series] = batch.series();
  if (series) return series.metric.identity.name;
  return batch.sideOutputs?.spans[0]?.name ?? (batch.sideOutputs?.records.length ? "a log record" : "");
}
