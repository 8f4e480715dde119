import type pg from "pg";
import { checkSettings } from "@/core/settings/environment";
import { DAY, HOUR } from "@/core/window/lengths";
import { createLink, endLinks } from "@/store/access/links";
import { connect } from "@/store/database/connect";
import { publicAddress } from "./auth";
import { castDemonstration } from "./demonstration";
import { hasPeople } from "./people";

/**
 * What a start does about access, and prints: `first-owner` an address that makes the first account, where there is none;
 * `demonstration` an address that signs in to look around, once the accounts to choose from are made. Each address works
 * once; a new one ends those before.
 */

async function firstOwner(pool: pg.Pool): Promise<string> {
  if (await hasPeople(pool)) return "";
  await endLinks(pool, "first-owner");
  const text = await createLink(pool, { kind: "first-owner", email: "", role: "owner", madeBy: "", lasts: DAY });
  return `${publicAddress()}/first-owner?link=${text}`;
}

async function demonstration(pool: pg.Pool): Promise<string> {
  const email = await castDemonstration(pool);
  await endLinks(pool, "demonstration");
  const text = await createLink(pool, { kind: "demonstration", email, role: "owner", madeBy: "", lasts: HOUR });
  return `${publicAddress()}/look?link=${text}`;
}

const TASKS: Readonly<Record<string, (pool: pg.Pool) => Promise<string>>> = {
  "first-owner": firstOwner,
  demonstration,
};

checkSettings();
const pool = connect({ max: 2 });
try {
  const task = TASKS[process.argv[2]];
  if (!task) throw new Error(`say ${Object.keys(TASKS).join(" or ")}`);
  process.stdout.write(await task(pool));
} finally {
  await pool.end();
}
