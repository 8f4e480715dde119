import { timingSafeEqual } from "node:crypto";
import type { IncomingMessage } from "node:http";
import type pg from "pg";
import { trialRequest } from "@/core/api/targets";
import { houseKey } from "@/store/secrets";
import { targetSecret } from "@/store/targets";
import { RequestError, readBody } from "./body";
import { type Budget, Hold } from "./budget";
import type { TrialMessage, TrialReply } from "./scraping";

const PATH = "/targets/try";
/** What a trial may take beside the target's own timeout, ms. */
const GRACE = 5000;

/** Lets the pages try a target from where it will be scraped. */
export class Trials {
  private next = 1;
  private readonly open = new Map<number, (reply: TrialReply) => void>();

  /** @param say gives a trial to the thread that scrapes; false where there is none */
  constructor(
    private readonly pool: pg.Pool,
    private readonly budget: Budget,
    private readonly say: (message: TrialMessage) => boolean,
  ) {}

  heard(reply: TrialReply): void {
    this.open.get(reply.trial)?.(reply);
    this.open.delete(reply.trial);
  }

  /** Answers a request for a trial; null for other paths. @throws RequestError */
  async answer(path: string, request: IncomingMessage): Promise<object | null> {
    if (path !== PATH) return null;
    const wanted = Buffer.from(houseKey());
    const shown = Buffer.from(String(request.headers["x-tin-key"] ?? ""));
    if (shown.length !== wanted.length || !timingSafeEqual(shown, wanted))
      throw new RequestError(403, "only Tin Ladder's own pages may try a target", 7);
    const hold = new Hold(this.budget);
    try {
      const body = await readBody(request, hold);
      const parsed = trialRequest.safeParse(JSON.parse(body.toString("utf8")));
      if (!parsed.success) throw new RequestError(400, parsed.error.issues[0].message);
      const { id, secret, ...rest } = parsed.data;
      const known = secret ?? (id === undefined ? "" : await targetSecret(this.pool, id));
      const reply = await this.ask({ ...rest, secret: known }, rest.timeout + GRACE);
      if (!reply.answer) throw new RequestError(503, "the trial failed; the intake's log says why", 14);
      return reply.answer;
    } catch (error) {
      if (error instanceof SyntaxError) throw new RequestError(400, "the body is not JSON");
      throw error;
    } finally {
      hold.release();
    }
  }

  private ask(question: TrialMessage["question"], ms: number): Promise<TrialReply> {
    const trial = this.next++;
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => {
        this.open.delete(trial);
        reject(new RequestError(503, "the trial took too long", 14));
      }, ms);
      this.open.set(trial, (reply) => {
        clearTimeout(timer);
        resolve(reply);
      });
      if (!this.say({ trial, question })) this.heard({ trial, answer: null });
    });
  }
}
