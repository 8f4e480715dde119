import type pg from "pg";
import { callerOf } from "@/access/callers";
import type { Caller } from "@/core/access/rights";
import { setting } from "@/core/settings/environment";
import { isAway } from "@/engine/faults";
import { connectToRead } from "@/store/database/connect";
import { database } from "./database";

const kept = globalThis as typeof globalThis & { tinLadderReplica?: pg.Pool };

/**
 * Who sent a request. Where the store that is written to is away and there is a replica, that tells: what can still be read
 * is then still read by who may.
 *
 * @throws KeyRefused; what the database throws where neither answers
 */
export async function callerFrom(headers: Headers): Promise<Caller> {
  try {
    return await callerOf(database(), headers);
  } catch (error) {
    if (!isAway(error) || setting("DATABASE_READ_URL") === null) throw error;
    kept.tinLadderReplica ??= connectToRead({ max: 2 });
    return callerOf(kept.tinLadderReplica, headers);
  }
}
