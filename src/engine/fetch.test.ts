import type pg from "pg";
import type { StripNote } from "@/store/strips";
import { openAll } from "./fetch";
import { StripCache } from "./stripCache";

const noClient = {} as pg.PoolClient;

test("a reading that would fetch too much is refused before anything is fetched, with a way out", async () => {
  const notes = Array.from({ length: 600 }, (_, id) => ({
    strip: { id, metricId: 1, resolution: 0, size: 1024 * 1024, headSize: 100 } as StripNote,
    days: null,
  }));
  const opening = openAll(noClient, new StripCache(1e6), { notes, coarse: false }, false);
  await expect(opening).rejects.toThrow(
    '600 MiB of stored points would have to be read, at most 512 MiB; narrow the window, or say which series with "where"',
  );
});
