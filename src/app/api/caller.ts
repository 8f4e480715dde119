import { AsyncLocalStorage } from "node:async_hooks";
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
export function callerFrom(headers: Headers): Promise<Caller> {
  const document = documents.getStore();
  if (!document) return lookUp(headers);
  const key = JSON.stringify([headers.get("authorization"), headers.get("cookie")]);
  let found = document.get(key);
  if (!found) {
    found = lookUp(headers);
    document.set(key, found);
  }
  return found;
}

/** Who asked for the documents that are being made: each asks many calls in the name of one. */
const documents = new AsyncLocalStorage<Map<string, Promise<Caller>>>();

/** Makes a document: who asked for it is looked up once, and not by each call that it asks. */
export function asOneDocument<T>(make: () => Promise<T>): Promise<T> {
  return documents.run(new Map(), make);
}

async function lookUp(headers: Headers): Promise<Caller> {
  try {
    return await callerOf(database(), headers);
  } catch (error) {
    if (!isAway(error) || setting("DATABASE_READ_URL") === null) throw error;
    kept.tinLadderReplica ??= connectToRead({ max: 2 });
    return callerOf(kept.tinLadderReplica, headers);
  }
}
