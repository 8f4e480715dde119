import type { IncomingMessage } from "node:http";
import type pg from "pg";
import { type TrialAnswer, trialRequest } from "@/core/api/targets";
import { SecretElsewhereError, targetSecret } from "@/store/senders/targets";
import { askedByPages } from "../fromPages";
import { RequestError } from "../receive/body";
import type { Budget } from "../receive/budget";
import { WorkerRpc } from "../workerRpc";
import type { TrialMessage, TrialReply } from "./scrapeWorker";

const PATH = "/targets/try";
/** What a trial may take beside the target's own timeout, ms. */
const GRACE = 5000;

/** Lets the pages try a target from where it will be scraped. */
export class Trials {
  private readonly questions: WorkerRpc<TrialMessage["question"], TrialAnswer>;

  /** @param say gives a trial to the thread that scrapes; false where there is none */
  constructor(
    private readonly pool: pg.Pool,
    private readonly budget: Budget,
    say: (message: TrialMessage) => boolean,
  ) {
    this.questions = new WorkerRpc((trial, question) => say({ trial, question }));
  }

  heard({ trial, answer }: TrialReply): void {
    this.questions.heard(trial, answer);
  }

  /** Answers a request for a trial; null for other paths. @throws RequestError */
  async answer(path: string, request: IncomingMessage): Promise<object | null> {
    if (path !== PATH) return null;
    const { id, secret, ...rest } = await askedByPages(trialRequest, request, this.budget);
    const known = secret ?? (id === undefined || rest.auth === "none" ? "" : await this.savedSecret(id, rest.url));
    return this.questions.ask({ ...rest, secret: known }, rest.timeout + GRACE);
  }

  private async savedSecret(id: number, url: string): Promise<string> {
    try {
      return await targetSecret(this.pool, id, url);
    } catch (error) {
      if (error instanceof SecretElsewhereError) throw new RequestError(400, error.message);
      throw error;
    }
  }
}
