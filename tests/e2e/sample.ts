import { expect, type Page } from "@playwright/test";
import { columnCount } from "../../src/core/metric/model";
import { Batch } from "../../src/core/otlp/batch/batch";
import { Dictionary } from "../../src/core/otlp/dictionary";
import { unpackBatch } from "../../src/core/pipeline/block";
import { FRESH, WEB } from "./helpers";

/** The arrivals that a page tries drafts on, counted by hand. */

export interface Sampled {
  /** Points that came for each that was put aside. */
  factor: number;
  /** How long they took to come, ms. */
  span: number;
  points: { metric: string; series: string; attributes: Record<string, string>; columns: number }[];
}

/** About what a point takes in OTLP. */
export function bytesOf({ attributes, columns }: Pick<Sampled["points"][number], "attributes" | "columns">): number {
  const texts = Object.entries(attributes).map(([name, value]) => 8 + name.length + value.length);
  return 28 + 9 * columns + texts.reduce((sum, one) => sum + one, 0);
}

function opened(bytes: Buffer, seen: number, span: number): Sampled {
  const all = new Batch();
  for (let at = 0; at < bytes.length; at += 4 + bytes.readUInt32LE(at))
    all.append(unpackBatch(new Uint8Array(bytes.subarray(at + 4, at + 4 + bytes.readUInt32LE(at))), new Dictionary()));
  const points: Sampled["points"] = [];
  const { all: known, sets } = all.inColumns();
  for (const { metric, set } of sets)
    for (let row = 0; row < set.count; row++) {
      const { key, identity } = known[set.series[row]];
      const text = (value: unknown) => (typeof value === "object" ? JSON.stringify(value) : String(value));
      points.push({
        metric: metric.identity.name,
        series: `${metric.identity.name} ${metric.identity.kind} ${metric.identity.unit} ${key}`,
        attributes: Object.fromEntries(Object.entries(identity.attributes).map(([name, value]) => [name, text(value)])),
        columns: columnCount(set.layout),
      });
    }
  return { factor: seen / all.points, span, points };
}

/** How many points of a metric, or of spans, can be drafted on. */
async function sampledOf(what: { metric: string } | { spans: string }): Promise<number> {
  if ("metric" in what) {
    const response = await fetch(`${WEB}/api/pipeline/sample`, FRESH);
    const { points } = opened(Buffer.from(await response.arrayBuffer()), 0, 0);
    return points.filter(({ metric }) => metric === what.metric).length;
  }
  const response = await fetch(`${WEB}/api/pipeline/records`, FRESH);
  const { traces } = (await response.json()) as { traces: { records: { name: string }[] } };
  return traces.records.filter(({ name }) => name.includes(what.spans)).length;
}

/** Waits until so many points of a metric, or spans with a text in their name, can be drafted on. */
export async function untilSampled(what: { metric: string } | { spans: string }, least: number): Promise<void> {
  await expect.poll(() => sampledOf(what), { intervals: [300] }).toBeGreaterThanOrEqual(least);
}

/** Listens to what a page reads in. @returns gives what it read last */
export async function sampleOf(page: Page): Promise<() => Sampled> {
  let last: Sampled | null = null;
  await page.route("**/api/pipeline/sample", async (route) => {
    const response = await route.fetch();
    const body = await response.body();
    const { "x-tin-seen": seen, "x-tin-span": span } = response.headers();
    last = opened(body, Number(seen), Number(span));
    await route.fulfill({ response, body });
  });
  return () => last!;
}
