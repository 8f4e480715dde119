import type pg from "pg";
import type { Picks } from "@/core/reading/language/conditions";
import { type Caches, Loader, type StillWanted } from "./load";

/** What answering has at hand: a connection in a transaction that sees one state, and what its thread keeps. */
export interface Surroundings {
  client: pg.PoolClient;
  caches: Caches;
  stillWanted: StillWanted;
}

/** Fetches for one job; what the job asks for twice is fetched once. */
export function loaderOf({ client, caches, stillWanted }: Surroundings, picks: Picks = {}): Loader {
  return new Loader(client, caches, picks, stillWanted);
}
