import { parentPort } from "node:worker_threads";
import pino from "pino";
import type { TrialAnswer } from "@/core/api/targets";
import { Absences } from "@/core/otlp/absences";
import { Dictionary } from "@/core/otlp/dictionary";
import { Overflow } from "@/core/otlp/overflow";
import { setting } from "@/core/settings/environment";
import { Committer } from "@/store/commit";
import { connect } from "@/store/database/connect";
import { isContentError } from "@/store/database/contentError";
import { LOCKS } from "@/store/database/locks";
import { HOLDER } from "@/store/jobs/job";
import { noteScrape, readTargets, TARGETS_CHANGED } from "@/store/senders/targets";
import { networks } from "../address";
import { leaseForever } from "../lease";
import { OwnMetrics } from "../ownMetrics";
import { LiveLane } from "../pipeline/liveLane";
import { CommitQueue } from "../receive/queue";
import type { Question } from "./fetch";
import { Scraper } from "./scraper";
import { tryTarget } from "./trial";

/**
 * The intake's third thread: scrapes targets. Of all intakes on a database one scrapes at a time, held by a lock on a
 * connection; it learns of changed targets on the same one.
 */

/** Targets are read again this often even where no change was announced. */
const READ_EVERY = 10_000;

const log = pino({ name: "scraping", level: setting("LOG_LEVEL") });
const seriesLimit = setting("TIN_SERIES_LIMIT");
const pool = connect({ max: 6 });
const dictionary = new Dictionary();
const absences = new Absences(dictionary);
const overflow = new Overflow(dictionary, Date.now(), `scraping ${HOLDER}`);
const committer = new Committer(pool, { series: seriesLimit, overflow });
const queue = new CommitQueue(
  (batches) => committer.commit(batches),
  isContentError,
  (error) => log.warn(error, "some of what came cannot be stored"),
);
const lane = new LiveLane(pool, dictionary, (error) => log.error(error, "the pipeline cannot be read"));
const own = new OwnMetrics(dictionary, queue, `scraping ${HOLDER}`, () => lane.counts(), false);
const allowed = networks();
const report = (error: unknown) => log.error(error, "scraping failed");

/** What runs, by target, with what it was started from. */
const running = new Map<number, { from: string; scraper: Scraper }>();

async function apply(): Promise<void> {
  dictionary.trim();
  const targets = await readTargets(pool);
  const wanted = new Map(targets.filter(({ entry }) => !entry.paused).map((one) => [one.entry.id, one]));
  for (const [id, { from, scraper }] of running) {
    const one = wanted.get(id);
    if (one && configuration(one) === from) continue;
    scraper.stop();
    running.delete(id);
  }
  for (const [id, one] of wanted) {
    if (running.has(id)) continue;
    const scraper = new Scraper(
      { pool, dictionary, absences, queue, lane, allowed, instance: `scraping ${HOLDER}`, report },
      one.entry,
      one.secret,
      one.secretProblem,
    );
    running.set(id, { from: configuration(one), scraper });
    scraper.start();
  }
}

function configuration({ entry, secret, secretProblem }: Awaited<ReturnType<typeof readTargets>>[number]): string {
  const { last: _, ...rest } = entry;
  return JSON.stringify([rest, secret, secretProblem]);
}

function stopAll(): void {
  for (const { scraper } of running.values()) scraper.stop();
  running.clear();
}

let readAt = 0;

/** How soon the lanes are started again, ms. */
const AGAIN = 2000;

/** Starts the lanes: until they run nothing is scraped, because it would go past what they redact and drop. */
async function startLane(): Promise<void> {
  for (;;) {
    try {
      return await lane.start();
    } catch (error) {
      log.error(error, `the pipeline cannot be started: nothing is scraped; tried again in ${AGAIN / 1000} s`);
      await noteNotScraped(error).catch(report);
      await new Promise((resolve) => setTimeout(resolve, AGAIN));
    }
  }
}

/** Shows on every target why it is not scraped. */
async function noteNotScraped(error: unknown): Promise<void> {
  for (const { entry } of await readTargets(pool)) {
    if (entry.paused) continue;
    const note = { at: Date.now(), took: 0, samples: 0, points: 0, detail: (error as Error).message };
    await noteScrape(pool, entry.id, { ...note, failure: "pipeline" });
  }
}

async function main(): Promise<never> {
  await startLane();
  own.start();
  return leaseForever({
    pool,
    lock: LOCKS.scraping,
    channel: TARGETS_CHANGED,
    report,
    turn: async (woken) => {
      if (!woken && Date.now() - readAt <= READ_EVERY) return;
      readAt = Date.now();
      await apply();
    },
    released: stopAll,
  });
}

/** A target to try, asked by the first thread. */
export interface TrialMessage {
  trial: number;
  question: Question;
}
export interface TrialReply {
  trial: number;
  answer: TrialAnswer | null;
}

parentPort?.on("message", ({ trial, question }: TrialMessage) => {
  tryTarget(question, allowed, seriesLimit).then(
    (answer) => parentPort?.postMessage({ trial, answer } satisfies TrialReply),
    (error) => {
      report(error);
      parentPort?.postMessage({ trial, answer: null } satisfies TrialReply);
    },
  );
});

void main();
