import { expect, test } from "@playwright/test";
import pg from "pg";
import { fuzz } from "../fuzz/fuzz";
import { INTAKE, WEB } from "./helpers";

test("what services did by chance reads as it was, just sent and merged", async () => {
  test.setTimeout(300_000);
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
  const seed = Math.floor(Math.random() * 1e9);
  const wrong = await fuzz({ web: WEB, intake: INTAKE, pool }, seed, 120);
  await pool.end();
  expect(wrong).toEqual([]);
});
