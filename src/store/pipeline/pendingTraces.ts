import type pg from "pg";
import type { Span } from "@/core/span/model";

/** Spans that wait at tail sampling until their trace is decided on, and what was decided. */

/** For how long a decision is remembered, ms. */
const REMEMBERED = 600_000;
/** Traces that one pass takes on. */
const MAX_TRACES = 2000;

export interface PendingTrace {
  step: string;
  spans: readonly Span[];
}

/** Puts spans aside, inside the transaction of a connection. */
export async function writePendingTraces(
  client: pg.PoolClient,
  version: number,
  all: readonly PendingTrace[],
  now: number,
): Promise<void> {
  const rows = all.flatMap(({ step, spans }) => {
    const byTrace = new Map<string, Span[]>();
    for (const span of spans) {
      const own = byTrace.get(span.traceId);
      if (own) own.push(span);
      else byTrace.set(span.traceId, [span]);
    }
    return [...byTrace].map(([trace, own]) => ({ step, trace, own }));
  });
  if (rows.length === 0) return;
  await client.query(
    `INSERT INTO undecided_trace (version, step, trace_id, at, spans, body)
     SELECT $1, s, t, $2, n, b FROM unnest($3::text[], $4::text[], $5::int[], $6::text[]) AS w(s, t, n, b)`,
    [
      version,
      now,
      rows.map(({ step }) => step),
      rows.map(({ trace }) => trace),
      rows.map(({ own }) => own.length),
      rows.map(({ own }) => JSON.stringify(own)),
    ],
  );
}

/** A trace that is due: its spans so far, and what was decided of it before, if anything was. */
export interface DueTrace {
  traceId: string;
  rows: number[];
  spans: Span[];
  known: { kept: boolean; why: string } | null;
}

/**
 * Traces of a step whose first span came in before a moment, or that were decided on already; where too many spans wait,
 * the oldest are due at once.
 *
 * @param most spans that may wait
 */
export async function dueTraces(
  pool: pg.Pool,
  version: number,
  step: string,
  before: number,
  most: number,
): Promise<DueTrace[]> {
  const { rows: waiting } = await pool.query<{ spans: string | null }>(
    "SELECT sum(spans) AS spans FROM undecided_trace WHERE version = $1 AND step = $2",
    [version, step],
  );
  const crowded = Number(waiting[0].spans ?? 0) > most;
  const { rows } = await pool.query<{ trace_id: string; kept: boolean | null; why: string | null }>(
    `SELECT u.trace_id, bool_or(d.kept) AS kept, min(d.why) AS why FROM undecided_trace u
     LEFT JOIN trace_decision d ON d.step = u.step AND d.trace_id = u.trace_id
     WHERE u.version = $1 AND u.step = $2
     GROUP BY u.trace_id HAVING min(u.at) <= $3 OR bool_or(d.kept) IS NOT NULL OR $4
     ORDER BY min(u.at) LIMIT ${MAX_TRACES}`,
    [version, step, before, crowded],
  );
  if (rows.length === 0) return [];
  const bodies = await pool.query<{ id: string; trace_id: string; body: string }>(
    "SELECT id, trace_id, body FROM undecided_trace WHERE version = $1 AND step = $2 AND trace_id = ANY($3::text[]) ORDER BY id",
    [version, step, rows.map(({ trace_id }) => trace_id)],
  );
  const found = new Map<string, DueTrace>();
  for (const { trace_id: traceId, kept, why } of rows)
    found.set(traceId, { traceId, rows: [], spans: [], known: kept === null ? null : { kept, why: why ?? "" } });
  for (const { id, trace_id, body } of bodies.rows) {
    const trace = found.get(trace_id)!;
    trace.rows.push(Number(id));
    for (const span of JSON.parse(body) as Span[]) trace.spans.push(span);
  }
  return [...found.values()];
}

/** Deletes what was decided on and remembers how, inside the transaction of a connection. @throws where another process was at it */
export async function settleTraces(
  client: pg.PoolClient,
  step: string,
  all: readonly { trace: DueTrace; kept: boolean; why: string }[],
  now: number,
): Promise<void> {
  const ids = all.flatMap(({ trace }) => trace.rows);
  const { rowCount } = await client.query("DELETE FROM undecided_trace WHERE id = ANY($1::bigint[])", [ids]);
  if (rowCount !== ids.length) throw new Error(`${rowCount} of ${ids.length} waiting traces were still there`);
  await client.query(
    `INSERT INTO trace_decision (step, trace_id, at, kept, why)
     SELECT $1, t, $2, k, w FROM unnest($3::text[], $4::boolean[], $5::text[]) AS q(t, k, w)
     ON CONFLICT (step, trace_id) DO UPDATE SET at = excluded.at`,
    [step, now, all.map(({ trace }) => trace.traceId), all.map(({ kept }) => kept), all.map(({ why }) => why)],
  );
  await client.query("DELETE FROM trace_decision WHERE at < $1", [now - REMEMBERED]);
}

/** The oldest version that has traces waiting; null where none has. */
export async function pendingTraceVersions(pool: pg.Pool): Promise<number[]> {
  const { rows } = await pool.query<{ version: number }>("SELECT DISTINCT version FROM undecided_trace ORDER BY 1");
  return rows.map(({ version }) => version);
}

/** Spans that wait, by step. */
export async function pendingTraceCounts(pool: pg.Pool): Promise<{ step: string; points: number }[]> {
  const { rows } = await pool.query<{ step: string; points: string }>(
    "SELECT step, sum(spans) AS points FROM undecided_trace GROUP BY step ORDER BY step",
  );
  return rows.map(({ step, points }) => ({ step, points: Number(points) }));
}
