import { pipeline } from "node:stream/promises";
import type pg from "pg";
import { from as copyFrom } from "pg-copy-streams";
import { Batch } from "../../src/core/otlp/batch/batch";
import { Numbers } from "../../src/core/otlp/numbers";
import { Committer } from "../../src/store/commit";
import { transaction } from "../../src/store/database/connect";
import { encodeCopy, type Field } from "../../src/store/database/copyBinary";
import { BOUNDS, makeSeries, START, STEP } from "./data";
import { alternate, note, perSecond } from "./measure";

const SERIES = 10_000;
const COMMITS = 4;
const ROUNDS = 5;
const WIDTH = BOUNDS.length + 1;

/** The binary form of a bigint[] (PostgreSQL's array_send). */
export function arrayBytes(values: readonly number[]): Uint8Array {
  const out = Buffer.alloc(20 + values.length * 12);
  out.writeInt32BE(1, 0);
  out.writeInt32BE(0, 4);
  out.writeInt32BE(20, 8);
  out.writeInt32BE(values.length, 12);
  out.writeInt32BE(1, 16);
  values.forEach((value, i) => {
    out.writeInt32BE(8, 20 + i * 12);
    out.writeBigInt64BE(BigInt(value), 24 + i * 12);
  });
  return out;
}

export async function copyRows(
  client: pg.PoolClient,
  table: string,
  rows: readonly (readonly Field[])[],
): Promise<void> {
  await pipeline([encodeCopy(rows)], client.query(copyFrom(`COPY ${table} FROM STDIN (FORMAT binary)`)));
}

/** Durable writes: a commit per 10,000 points, as a group commit under load has, against a row per point in the same database. */
export async function benchWrite(pool: pg.Pool): Promise<void> {
  await pool.query(
    "CREATE TABLE bench_number (series integer, at bigint, value bigint); CREATE INDEX ON bench_number (series, at)",
  );
  await pool.query(
    "CREATE TABLE bench_buckets (series integer, at bigint, counts bigint[], total bigint); CREATE INDEX ON bench_buckets (series, at)",
  );
  const committer = new Committer(pool);
  const bounds = Numbers.of(BOUNDS);
  for (const kind of ["sum", "histogram"] as const) {
    const { series } = makeSeries(`bench.write.${kind}`, kind, SERIES);
    const values = (i: number, t: number) => Array.from({ length: WIDTH }, (_, b) => t * ((b % 5) + 1) + (i % 7));
    // What arrives is made beforehand: the codec and the database are what is timed.
    const times = (round: number) => Array.from({ length: COMMITS }, (_, c) => round * COMMITS + c);
    const rounds = Array.from({ length: ROUNDS + 1 }, (_, i) => i + 1);
    const batches = rounds.map((round) =>
      times(round).map((t) => {
        const batch = new Batch();
        const head = { timeMs: START + t * STEP, timeNs: 0, startMs: START, startNs: 0, flags: 0 };
        series.forEach((one, i) => {
          if (kind === "sum") {
            batch.number(one, head, t * 40 + (i % 31));
            return;
          }
          const counts = values(i, t);
          batch.explicit(
            one,
            head,
            { count: counts.reduce((a, b) => a + b, 0), sum: t * 1.25, min: 0.001, max: 9 },
            bounds,
            Numbers.of(counts),
          );
        });
        return batch;
      }),
    );
    const rows = rounds.map((round) =>
      times(round).map((t) =>
        series.map((_, i): Field[] => {
          const head: Field[] = [
            { type: "int4", value: i },
            { type: "int8", value: START + t * STEP },
          ];
          if (kind === "sum") return [...head, { type: "int8", value: t * 40 + (i % 31) }];
          const counts = values(i, t);
          return [
            ...head,
            { type: "bytea", value: arrayBytes(counts) },
            { type: "int8", value: counts.reduce((a, b) => a + b, 0) },
          ];
        }),
      ),
    );
    let mine = 0;
    const ours = async () => {
      for (const batch of batches[mine]) await committer.commit([batch]);
      mine++;
    };
    let other = 0;
    const theirs = async () => {
      const name = kind === "sum" ? "bench_number" : "bench_buckets";
      for (const some of rows[other]) await transaction(pool, (client) => copyRows(client, name, some));
      other++;
    };
    const [a, b] = await alternate(
      [
        { name: "ours", run: ours },
        { name: "rows", run: theirs },
      ],
      ROUNDS,
    );
    const points = SERIES * COMMITS;
    const what = kind === "sum" ? "numbers" : "14-bucket histograms";
    note(
      `durable write, ${what}, codec included`,
      "row per point, COPY binary, btree",
      perSecond(points, a.ms),
      perSecond(points, b.ms),
      b.ms / a.ms,
      kind === "sum" ? "≥ 8×" : "≥ 4×",
    );
  }
  await pool.query("DROP TABLE bench_number, bench_buckets");
}
