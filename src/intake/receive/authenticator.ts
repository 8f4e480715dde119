import type pg from "pg";
import { hashKey, KEYS_CHANGED, type KnownKeys, keyIn, noteUse, readKeys, whyNotTaken } from "@/store/access/keys";
import { RequestError } from "./body";

/** For how long what is known of keys serves where nothing is announced, ms. */
const FRESH = 1000;
const NOTE_EVERY = 2000;

/** Who may send: checks the key of a request. */
export class Authenticator {
  private known: KnownKeys | null = null;
  private readAt = 0;
  private reading: Promise<KnownKeys> | null = null;
  private readonly used = new Map<number, number>();
  private notedAt = 0;

  /** Reads keys again as soon as one is revoked; a connection that breaks is made again. */
  async listen(): Promise<void> {
    for (;;) {
      let broken: Error | undefined;
      try {
        const client = await this.pool.connect();
        try {
          await new Promise((_, reject) => {
            client.on("notification", () => this.forget());
            client.on("error", reject);
            client.on("end", reject);
            client.query(`LISTEN ${KEYS_CHANGED}`).then(() => this.forget(), reject);
          });
        } catch (error) {
          broken = error as Error;
        } finally {
          client.removeAllListeners("notification");
          client.release(broken ?? true);
        }
      } catch {
        // The store is away: what is known of keys is read again every second as it comes back.
      }
      await new Promise((resolve) => setTimeout(resolve, FRESH).unref());
    }
  }

  private forget(): void {
    this.readAt = 0;
    this.reading = null;
  }

  /** @param always whether a key is needed whatever the rule says */
  constructor(
    private readonly pool: pg.Pool,
    private readonly always = false,
  ) {}

  /**
   * @param authorization the request's header of that name
   * @returns the environment that its key is for; null where it has none and none is needed
   * @throws RequestError 401
   */
  async environmentOf(authorization: string | undefined): Promise<string | null> {
    const { needed, byHash } = await this.keys();
    const text = keyIn(authorization);
    if (text === undefined) {
      if (authorization) throw refused("the authorization header holds no bearer key; send Authorization: Bearer KEY");
      if (!needed && !this.always) return null;
      throw refused(
        "a key is needed and none was sent; set OTEL_EXPORTER_OTLP_HEADERS=Authorization=Bearer%20KEY, with a key from Settings, Keys",
      );
    }
    const found = byHash.get(hashKey(text).toString("hex"));
    const why = whyNotTaken(found, Date.now());
    if (!found || why !== null) throw refused(why ?? "the key is not known here");
    if (!found.scopes.includes("send"))
      throw refused(
        `the key "${found.name}" is for ${found.scopes.join(", ")} and not to send; make another under Settings, Keys`,
      );
    this.note(found.id);
    return found.environment;
  }

  private async keys(): Promise<KnownKeys> {
    if (this.known && Date.now() - this.readAt < FRESH) return this.known;
    if (!this.reading) {
      const reading = readKeys(this.pool);
      this.reading = reading;
      const ended = () => {
        if (this.reading === reading) this.reading = null;
      };
      reading.then(ended, ended);
    }
    const { reading } = this;
    const known = await reading;
    // What was read before a key was revoked says nothing of now.
    if (this.reading !== null && this.reading !== reading) return this.keys();
    this.known = known;
    this.readAt = Date.now();
    return known;
  }

  private note(id: number): void {
    const now = Date.now();
    this.used.set(id, now);
    if (now - this.notedAt < NOTE_EVERY) return;
    this.notedAt = now;
    const used = new Map(this.used);
    this.used.clear();
    // When a key was last used is worth no failed request.
    noteUse(this.pool, used).catch(() => {});
  }
}

function refused(message: string): RequestError {
  return new RequestError(401, message, 16);
}
