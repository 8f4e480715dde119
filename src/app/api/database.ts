import type pg from "pg";
import { connect } from "@/store/database/connect";

const kept = globalThis as typeof globalThis & { tinLadderPool?: pg.Pool; tinLadderAttempts?: pg.Pool };

/** The web process's own connections, for look-ups in the registry. */
export function database(): pg.Pool {
  kept.tinLadderPool ??= connect({ max: 6 });
  return kept.tinLadderPool;
}

/** Connections for counting attempts, which lock each other: however many come, the others are left to everybody else. */
export function attempts(): pg.Pool {
  kept.tinLadderAttempts ??= connect({ max: 2 });
  return kept.tinLadderAttempts;
}
