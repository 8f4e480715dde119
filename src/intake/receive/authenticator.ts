import type pg from "pg";
import { hashToken, type KnownTokens, noteUse, readTokens } from "@/store/senders/tokens";
import { RequestError } from "./body";

/** For how long what is known of tokens serves, ms: a token that is revoked is refused at most this much later. */
const FRESH = 1000;
const NOTE_EVERY = 2000;

/** Who may send: checks the token of a request. */
export class Authenticator {
  private known: KnownTokens | null = null;
  private readAt = 0;
  private reading: Promise<KnownTokens> | null = null;
  private readonly used = new Map<number, number>();
  private notedAt = 0;

  constructor(private readonly pool: pg.Pool) {}

  /**
   * @param authorization the request's header of that name
   * @returns the environment that its token is for; null where it has none and none is needed
   * @throws RequestError 401
   */
  async environmentOf(authorization: string | undefined): Promise<string | null> {
    const { needed, byHash } = await this.tokens();
    const text = /^Bearer\s+(\S+)\s*$/i.exec(authorization ?? "")?.[1];
    if (text === undefined) {
      if (authorization)
        throw refused("the authorization header holds no bearer token; send Authorization: Bearer TOKEN");
      if (!needed) return null;
      throw refused(
        "a token is needed and none was sent; set OTEL_EXPORTER_OTLP_HEADERS=Authorization=Bearer%20TOKEN, with a token from the Services page",
      );
    }
    const found = byHash.get(hashToken(text).toString("hex"));
    if (!found) throw refused("the token is not known here; make one on the Services page, under Tokens");
    if (found.revoked)
      throw refused(`the token "${found.name}" was revoked; make another on the Services page, under Tokens`);
    this.note(found.id);
    return found.environment;
  }

  private async tokens(): Promise<KnownTokens> {
    if (this.known && Date.now() - this.readAt < FRESH) return this.known;
    this.reading ??= readTokens(this.pool).finally(() => {
      this.reading = null;
    });
    const known = await this.reading;
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
    // When a token was last used is worth no failed request.
    noteUse(this.pool, used).catch(() => {});
  }
}

function refused(message: string): RequestError {
  return new RequestError(401, message, 16);
}
