import type pg from "pg";
import { labelsOf } from "@/core/metric/labels";
import type { Attributes } from "@/core/metric/model";
import { whyEmpty } from "@/core/reading/emptiness";
import type { Picks } from "@/core/reading/language/conditions";
import { predicate } from "@/core/reading/language/conditions";
import type { MeasureNode } from "@/core/reading/language/tree";
import type { Warning } from "@/core/reading/result";
import type { Source } from "@/core/reading/source";

/** Series that are looked at for the reason; of more, the latest. */
const MAX_SERIES = 20_000;

/** Finds out why a measure came out empty for the window (from, to], Unix ms. */
export async function reasonFor(
  client: pg.PoolClient,
  node: MeasureNode,
  picks: Picks,
  source: Source,
  window: { from: number; to: number },
): Promise<Warning> {
  const back = node.shifted ?? 0;
  const [from, to] = [window.from - back, window.to - back];
  const { rows: metrics } = await client.query<{ id: number }>("SELECT id FROM metric WHERE name = $1", [node.metric]);
  const ids = metrics.map(({ id }) => id);
  const { rows: ends } = await client.query<{ first: string | null; last: string | null }>(
    "SELECT min(t_from) AS first, max(t_to) AS last FROM strip WHERE metric_id = ANY($1::int[])",
    [ids],
  );
  const { first, last } = ends[0];
  const stored = first === null || last === null ? null : { first: Number(first), last: Number(last) };
  const matched = source.metrics.some(({ series }) => series.length > 0);
  const known: Attributes[] = [];
  let lastMatched: number | null = null;
  if (node.where && !matched) {
    const { rows } = await client.query<{ resource: Attributes; attributes: Attributes; last_at: string | null }>(
      `SELECT r.attributes AS resource, s.attributes, h.last_at FROM series s JOIN resource r ON r.id = s.resource_id
       LEFT JOIN activity h ON h.resource_id = r.id
       WHERE s.metric_id = ANY($1::int[]) ORDER BY s.id DESC LIMIT ${MAX_SERIES}`,
      [ids],
    );
    const passes = predicate(node.where, picks);
    for (const { resource, attributes, last_at } of rows) {
      const all = labelsOf({ resource, attributes });
      known.push(all);
      if (last_at !== null && passes(all)) lastMatched = Math.max(lastMatched ?? 0, Number(last_at));
    }
  }
  return whyEmpty({ node, picks, from, to, stored, known, lastMatched, metrics: source.metrics });
}
