import type pg from "pg";
import { noteRejectedRequests, type RejectedRequest, rejectionKey } from "@/store/senders/rejectedRequests";

const WRITE_EVERY = 1000;
/** Unlike refusals held until they are written; beyond it, what comes is not noted. */
const MAX = 200;

/** Requests that were refused on their way to the record. */
export class Refusals {
  private readonly held = new Map<string, RejectedRequest>();
  private timer: NodeJS.Timeout | null = null;

  constructor(private readonly pool: pg.Pool) {}

  /** Notes a refusal by the sender's address, its user agent, what it asked and why it was refused. */
  note(address: string, agent: string, request: string, status: number, reason: string): void {
    const now = Date.now();
    const one: RejectedRequest = {
      address: address.slice(0, 100),
      agent: storable(agent.slice(0, 200)),
      request: storable(request.slice(0, 200)),
      status,
      reason: storable(reason.slice(0, 400)),
      firstAt: now,
      lastAt: now,
      count: 1,
    };
    const key = rejectionKey(one);
    const known = this.held.get(key);
    if (known) {
      known.count++;
      known.lastAt = now;
    } else if (this.held.size < MAX) this.held.set(key, one);
    this.timer ??= setTimeout(() => void this.write(), WRITE_EVERY).unref();
  }

  /** Writes what is held. */
  async write(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    const all = [...this.held.values()];
    this.held.clear();
    if (all.length === 0) return;
    // Where the store is away, senders are told so by every request; the record can miss them.
    await noteRejectedRequests(this.pool, all).catch(() => {});
  }
}

function storable(text: string): string {
  return text.toWellFormed().replaceAll("\0", "");
}
