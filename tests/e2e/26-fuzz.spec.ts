import { expect, test } from "@playwright/test";
import pg from "pg";
import { fuzz } from "../fuzz/fuzz";
import { INTAKE, WEB } from "./helpers";

test("what services did by chance reads as it was, just sent and merged", async () => {
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
  const seed = Math.floor(Math.random() * 1e9);
  let done = 0;
  const count = (rounds: number) => {
    done = rounds;
  };
  const wrong = await fuzz({ web: WEB, intake: INTAKE, pool }, seed, 120, count, 150_000);
  await pool.end();
  expect(wrong).toEqual([]);
  expect(done).toBeGreaterThan(0);
});
