import type { BlockList } from "node:net";
import type pg from "pg";
import type { FailureCode, TargetEntry } from "@/core/api/targets";
import type { Attributes } from "@/core/metric/model";
import { collects } from "@/core/openmetrics/choice";
import { Converter, noteGone, targetInfo } from "@/core/openmetrics/convert";
import type { Absences } from "@/core/otlp/absences";
import { Batch } from "@/core/otlp/batch/batch";
import type { Dictionary, KnownSeries } from "@/core/otlp/dictionary";
import { ScrapeError } from "@/core/scrape/failure";
import { OWN_SERVICE } from "@/store/registry/catalogue";
import { noteScrape, type ScrapeNote } from "@/store/senders/targets";
import type { CommitQueue } from "../receive/queue";
import { familiesOf } from "./families";
import { fetchExposition } from "./fetch";

/** What scrapers share. */
export interface ScraperParts {
  pool: pg.Pool;
  dictionary: Dictionary;
  absences: Absences;
  queue: CommitQueue;
  lane: { receives: (receiver: "scrape", signal: "metrics") => boolean; admit: (batch: Batch) => void };
  allowed: BlockList;
  /** Who scrapes, for its own metrics. */
  instance: string;
  report: (error: unknown) => void;
}

const SCOPE = { name: OWN_SERVICE, version: "" };

/** Scrapes one target again and again, until it is stopped. */
export class Scraper {
  private timer: NodeJS.Timeout | null = null;
  private stopped = false;
  private readonly converter: Converter;
  private readonly choose: (name: string) => boolean;
  /** Gauges of the last scrape: those that are gone are said to be. */
  private gauges = new Set<KnownSeries>();
  private lastResource: Attributes | null = null;
  private readonly began = Date.now();
  private readonly failures = new Map<FailureCode, number>();

  constructor(
    private readonly parts: ScraperParts,
    private readonly entry: TargetEntry,
    private readonly secret: string,
    private readonly secretProblem: string | null,
  ) {
    this.converter = new Converter(parts.dictionary);
    this.choose = collects(entry.choice);
  }

  start(): void {
    void this.turn();
  }

  stop(): void {
    this.stopped = true;
    if (this.timer) clearTimeout(this.timer);
  }

  private async turn(): Promise<void> {
    const began = Date.now();
    if (this.parts.lane.receives("scrape", "metrics")) await this.scrape(began).catch(this.parts.report);
    if (this.stopped) return;
    const { every } = this.entry;
    // The next turn keeps the beat of the first.
    const due = began + every * Math.max(1, Math.ceil((Date.now() - began) / every));
    this.timer = setTimeout(() => void this.turn(), Math.max(0, due - Date.now()));
  }

  private async scrape(at: number): Promise<void> {
    const { pool, queue } = this.parts;
    const began = performance.now();
    const batch = new Batch();
    const note: ScrapeNote = { at, took: 0, samples: 0, points: 0, failure: null, detail: null };
    try {
      note.samples = await this.read(batch, at);
    } catch (error) {
      if (!(error instanceof ScrapeError)) throw error;
      note.failure = error.code;
      note.detail = error.message;
      this.allGone(batch, at);
      batch.silent = true;
    }
    note.took = Math.round(performance.now() - began);
    note.points = batch.points;
    const durable = this.parts.absences.fill(batch);
    if (note.failure) this.failures.set(note.failure, (this.failures.get(note.failure) ?? 0) + 1);
    this.parts.lane.admit(batch);
    // What is told of the scrape itself goes past the pipeline.
    this.tell(batch, note);
    if (this.stopped) return;
    try {
      await queue.submit(batch);
      durable();
      note.detail ??= batch.message() || null;
    } catch (error) {
      this.parts.report(error);
      note.failure = "store";
      note.detail = (error as Error).message;
    }
    await noteScrape(pool, this.entry.id, note);
  }

  /** Reads the target into a batch. @returns how many samples it gave */
  private async read(batch: Batch, at: number): Promise<number> {
    if (this.secretProblem) throw new ScrapeError("unauthorized", this.secretProblem);
    const exposition = await fetchExposition({ ...this.entry, secret: this.secret }, this.parts.allowed);
    const { families, samples } = familiesOf(exposition);
    const resource = resourceOf(this.entry, targetInfo(families));
    if (JSON.stringify(resource) !== JSON.stringify(this.lastResource)) {
      this.allGone(batch, at);
      this.lastResource = resource;
    }
    this.converter.add(
      families.filter(({ name }) => this.choose(name)),
      batch,
      this.lastResource ?? resource,
      at,
    );
    const now = new Set<KnownSeries>();
    for (const series of batch.series()) if (series.metric.identity.kind === "gauge") now.add(series);
    for (const series of this.gauges) if (!now.has(series)) noteGone(batch, series, at);
    this.gauges = now;
    return samples;
  }

  private allGone(batch: Batch, at: number): void {
    for (const series of this.gauges) noteGone(batch, series, at);
    this.gauges = new Set();
  }

  /** Adds what is known of the scrape itself: metrics of Tin Ladder's own, by target. */
  private tell(batch: Batch, { at, took, samples, failure }: ScrapeNote): void {
    const { dictionary, instance } = this.parts;
    const resource = { "service.name": OWN_SERVICE, "service.instance.id": instance };
    const target = { target: this.entry.name, "server.address": new URL(this.entry.url).host };
    const add = (name: string, unit: string, description: string, value: number, more?: Attributes) => {
      const counts = more !== undefined;
      const metric = dictionary.metric(
        { name, kind: counts ? "sum" : "gauge", unit, temporality: counts ? "cumulative" : "none", monotonic: counts },
        description,
      );
      const series = dictionary.series(metric, { resource, scope: SCOPE, attributes: { ...target, ...more } });
      batch.number(series, { timeMs: at, timeNs: 0, startMs: counts ? this.began : 0, startNs: 0, flags: 0 }, value);
    };
    add("tin.scrape.answered", "1", "1 where the last scrape went well, else 0", failure ? 0 : 1);
    add("tin.scrape.duration", "s", "How long the last scrape took", took / 1000);
    add("tin.scrape.samples", "{sample}", "Samples that the last scrape gave", samples);
    for (const [code, count] of this.failures)
      add("tin.scrape.failures", "{scrape}", "Scrapes that failed", count, { "error.type": code });
  }
}

/** Who a target is: its name and address, what it says of itself, and what was added by hand. */
export function resourceOf(
  { name, url, labels }: Pick<TargetEntry, "name" | "url" | "labels">,
  info: Attributes,
): Attributes {
  const known: Attributes = {};
  for (const [key, value] of Object.entries(info)) known[STANDARD.get(key) ?? key] = value;
  return { "service.instance.id": new URL(url).host, ...known, ...labels, "service.name": name };
}

/** Resource attributes of the semantic conventions, by how the text format has to write them. */
const STANDARD = new Map(
  [
    "service.version",
    "service.namespace",
    "service.instance.id",
    "deployment.environment.name",
    "telemetry.sdk.name",
    "telemetry.sdk.language",
    "telemetry.sdk.version",
    "host.name",
    "host.arch",
    "os.type",
    "process.pid",
    "process.runtime.name",
    "process.runtime.version",
  ].map((name) => [name.replaceAll(".", "_"), name]),
);
