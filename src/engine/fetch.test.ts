import { Readable } from "node:stream";
import type pg from "pg";
import { emptyPointSet } from "@/core/metric/model";
import { encodeStrip } from "@/core/strip/strip";
import type { StripNote } from "@/store/strips/strips";
import { collect } from "./collect";
import { fill, openAll, seriesIn } from "./fetch";
import { StripCache } from "./stripCache";

/** A query of pg-copy-streams as what it asks. */
jest.mock("pg-copy-streams", () => ({ to: (text: string) => ({ text }), from: (text: string) => ({ text }) }));

const noClient = {} as pg.PoolClient;

test("a reading that would fetch too much is refused before anything is fetched, with a way out", async () => {
  const notes = Array.from({ length: 600 }, (_, id) => ({
    strip: { id, metricId: 1, resolution: 0, size: 1024 * 1024, headSize: 100 } as StripNote,
    part: null,
  }));
  const opening = openAll(noClient, new StripCache(1e6), { notes, coarse: false }, false);
  await expect(opening).rejects.toThrow(
    '600 MiB of stored points would have to be read, at most 512 MiB; narrow the window, or say which series with "where"',
  );
});

/** A connection that copies runs of bytes out of payloads, as the store does for `substr`. */
function copying(payloads: ReadonlyMap<number, Uint8Array>, asked: string[]): pg.PoolClient {
  const query = ({ text }: { text: string }) => {
    asked.push(text);
    const lists = [...text.matchAll(/'\{([\d,]*)\}'/g)].map(([, list]) => list.split(",").map(Number));
    const rows = text.includes("substr")
      ? lists[0].map((id, i) => [int(lists[3][i], 4), payloads.get(id)!.slice(lists[1][i], lists[1][i] + lists[2][i])])
      : lists[0].map((id) => [int(id, 8), payloads.get(id)!]);
    return Readable.from([copyOf(rows)]);
  };
  return { query } as unknown as pg.PoolClient;
}

function int(value: number, size: 4 | 8): Uint8Array {
  const bytes = Buffer.alloc(size);
  if (size === 8) bytes.writeBigInt64BE(BigInt(value));
  else bytes.writeInt32BE(value);
  return bytes;
}

/** PostgreSQL's binary COPY format: a head, rows of counted fields, an end. */
function copyOf(rows: readonly (readonly Uint8Array[])[]): Buffer {
  const short = (value: number) => {
    const bytes = Buffer.alloc(2);
    bytes.writeInt16BE(value);
    return bytes;
  };
  const head = Buffer.from("5047434f50590aff0d0a000000000000000000", "hex");
  const body = rows.flatMap((fields) => [
    short(fields.length),
    ...fields.flatMap((field) => [int(field.length, 4), field]),
  ]);
  return Buffer.concat([head, ...body, short(-1)]);
}

test.each([[3], [40], [2000]])(
  "%i series of one commit are all found, whether strips are opened whole or by their heads",
  async (series) => {
    const set = emptyPointSet({ kind: "explicit", bounds: [1, 2, 4, 8] }, series);
    for (let i = 0; i < series; i++) {
      set.series[i] = 1000 + i;
      set.timeMs[i] = 1e12 + i * 7;
      set.columns.forEach((column, c) => {
        column[i] = Math.sin(i * 31 + c) * 1e6;
      });
    }
    const payload = encodeStrip([set]);
    const headSize = new DataView(payload.buffer).getUint32(2, true);
    const strip = {
      id: 7,
      metricId: 1,
      resolution: 0,
      level: 0,
      from: 1e12,
      size: payload.length,
      headSize,
      arrived: 1,
    };
    const plan = { notes: [{ strip: strip as StripNote, part: null }], coarse: false };
    const asked: string[] = [];
    const client = copying(new Map([[7, payload]]), asked);
    const cache = new StripCache(1e9);
    for (const selective of [true, false]) {
      const strips = await openAll(client, cache, plan, selective);
      expect(seriesIn(strips)).toEqual(new Set(set.series));
      const wanted = new Set([1000, 1000 + series - 1]);
      await fill(client, strips, wanted);
      const found = collect(strips, wanted, "all", cache);
      for (const id of wanted) {
        const [part] = found.get(id)!();
        expect(part.columns.map((column) => column[0])).toEqual(set.columns.map((column) => column[id - 1000]));
        expect(part.timeMs[0]).toBe(set.timeMs[id - 1000]);
      }
    }
    expect(asked.some((text) => text.includes("substr"))).toBe(payload.length > 48 * 1024);
  },
);
