import pg from "pg";
import { letIn } from "../e2e/asProgram";
import { fuzz } from "./fuzz";

/** npm run fuzz: FUZZ_ROUNDS and FUZZ_SEED say how many and which. */

const rounds = Number(process.env.FUZZ_ROUNDS ?? 10_000);
const seed = Number(process.env.FUZZ_SEED ?? Math.floor(Math.random() * 1e9));
await letIn();
const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
const began = Date.now();
process.stdout.write(`seed ${seed}, ${rounds} rounds\n`);
const wrong = await fuzz(
  {
    web: `http://127.0.0.1:${process.env.TIN_WEB_PORT}`,
    intake: `http://127.0.0.1:${process.env.TIN_INTAKE_PORT}`,
    pool,
  },
  seed,
  rounds,
  (done) => {
    if (done % 400 === 0 || done === rounds)
      process.stdout.write(`${done} rounds in ${Math.round((Date.now() - began) / 1000)} s\n`);
  },
);
await pool.end();
for (const one of wrong) process.stdout.write(`✗ ${one}\n`);
process.stdout.write(wrong.length === 0 ? "no difference\n" : `${wrong.length} differences\n`);
process.exitCode = wrong.length === 0 ? 0 : 1;
