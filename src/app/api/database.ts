import type pg from "pg";
import { connect } from "@/store/database/connect";

const kept = globalThis as typeof globalThis & { tinLadderPool?: pg.Pool };

/** The web process's own connections, for look-ups in the registry. */
export function database(): pg.Pool {
  kept.tinLadderPool ??= connect({ max: 6 });
  return kept.tinLadderPool;
}
