import type { LogRecord } from "@/core/log/model";
import { Batch } from "@/core/otlp/batch/batch";
import { noSideOutputs } from "@/core/otlp/batch/sideOutputs";
import { Dictionary } from "@/core/otlp/dictionary";
import type { Span } from "@/core/span/model";
import { isContentError } from "@/store/database/contentError";
import { FullError } from "./budget";
import { CommitQueue } from "./queue";

const batch = (points: number, name = "") => ({ points, name, series: () => [], reject: () => {} }) as unknown as Batch;
const never = () => false;
const always = () => true;
const nameOf = (one: Batch) => (one as unknown as { name: string }).name;

test("what arrives during a commit goes into the next one together", async () => {
  const groups: number[] = [];
  const releases: (() => void)[] = [];
  const queue = new CommitQueue((batches) => {
    groups.push(batches.length);
    return new Promise((resolve) => releases.push(resolve));
  }, never);
  const first = queue.submit(batch(1));
  const others = [queue.submit(batch(1)), queue.submit(batch(1)), queue.submit(batch(1))];
  releases[0]();
  await first;
  await new Promise((resolve) => setImmediate(resolve));
  expect(groups).toEqual([1, 3]);
  releases[1]();
  await Promise.all(others);
});

test("one batch that cannot be written does not spoil the others of its group", async () => {
  const written: string[] = [];
  const queue = new CommitQueue(async (batches) => {
    if (batches.some((one) => nameOf(one) === "poison")) throw new Error("refused");
    written.push(...batches.map(nameOf));
  }, always);
  const results = await Promise.allSettled(["a", "b", "poison", "c"].map((name) => queue.submit(batch(1, name))));
  expect(results.map(({ status }) => status)).toEqual(["fulfilled", "fulfilled", "fulfilled", "fulfilled"]);
  expect(written.sort()).toEqual(["a", "b", "c"]);
});

test("a store that is away fails a whole group at once, not one by one", async () => {
  let calls = 0;
  const queue = new CommitQueue(async () => {
    calls++;
    throw new Error("connection refused");
  }, never);
  const results = await Promise.allSettled(Array.from({ length: 20 }, () => queue.submit(batch(1))));
  expect(results.every(({ status }) => status === "rejected")).toBe(true);
  expect(calls).toBe(2);
});

test("a queue that is full refuses at once and takes again when it has room", async () => {
  const releases: (() => void)[] = [];
  const queue = new CommitQueue(() => new Promise((resolve) => releases.push(resolve)), never);
  const running = queue.submit(batch(10));
  const waiting = queue.submit(batch(390_000));
  await expect(queue.submit(batch(20_000))).rejects.toThrow(FullError);
  releases[0]();
  await running;
  await new Promise((resolve) => setImmediate(resolve));
  const later = queue.submit(batch(20_000));
  releases[1]();
  await waiting;
  await new Promise((resolve) => setImmediate(resolve));
  releases[2]();
  await later;
});

test("a batch without points is done without a commit", async () => {
  const queue = new CommitQueue(() => Promise.reject(new Error("must not be called")), never);
  await queue.submit(batch(0));
});

describe("what the store refuses in a request is found, told, and the rest written", () => {
  const points = (names: readonly string[]) => {
    const dictionary = new Dictionary();
    const full = new Batch();
    const metric = dictionary.metric(
      { name: "bricks", kind: "gauge", unit: "", temporality: "none", monotonic: false },
      "",
    );
    for (const name of names) {
      const series = dictionary.series(metric, {
        resource: {},
        scope: { name: "", version: "" },
        attributes: { name },
      });
      full.number(series, { timeMs: 1, timeNs: 0, startMs: 0, startNs: 0, flags: 0 }, 1);
    }
    return full;
  };
  const spans = (names: readonly string[]): Batch => {
    const full = new Batch();
    full.sideOutputs = { ...noSideOutputs(1), spans: names.map((name) => ({ name }) as Span) };
    return full;
  };

  test.each([
    ["points", points],
    ["spans", spans],
    [
      "both",
      (names: readonly string[]) => {
        const both = points(names);
        both.sideOutputs = spans(names).sideOutputs;
        return both;
      },
    ],
  ])("%s", async (kind, make) => {
    const names = Array.from({ length: 40 }, (_, i) => (i === 3 || i === 29 ? `poison ${i}` : `fine ${i}`));
    const written: string[] = [];
    const queue = new CommitQueue(async (batches) => {
      const found = batches.flatMap((one) => [
        ...[...one.series()].map(({ identity }) => String(identity.attributes.name)),
        ...(one.sideOutputs?.spans ?? []).map(({ name }) => name),
      ]);
      if (found.some((name) => name.startsWith("poison"))) throw Object.assign(new Error("no NUL"), { code: "22021" });
      written.push(...found);
    }, isContentError);
    const whole = make(names);
    await queue.submit(whole);
    const times = kind === "both" ? 2 : 1;
    expect(written.filter((name) => name.startsWith("fine"))).toHaveLength(38 * times);
    expect(new Set(written).size).toBe(38);
    expect(whole.rejected).toBe(2 * times);
    expect(whole.message()).toContain("it cannot be stored: no NUL");
  });
});

test("a request that is stored in parts, and sent again because nobody answered, is in the store once", async () => {
  const names = Array.from({ length: 24 }, (_, i) => (i === 3 || i === 17 ? `poison ${i}` : `fine ${i}`));
  const request = () => {
    const batch = new Batch();
    batch.sideOutputs = { ...noSideOutputs(7), records: names.map((body) => ({ body }) as unknown as LogRecord) };
    batch.request = "a-request";
    return batch;
  };
  for (let survives = 0; survives < 12; survives++) {
    const stored: unknown[] = [];
    const ids = new Set<string>();
    let left = survives;
    const queue = new CommitQueue(
      async (batches) => {
        for (const { request: id, sideOutputs } of batches) {
          expect(id).not.toBeNull();
          if (ids.has(id!)) continue;
          const bodies = (sideOutputs?.records ?? []).map(({ body }) => body);
          if (bodies.some((body) => String(body).startsWith("poison")))
            throw Object.assign(new Error("no NUL"), { code: "22021" });
          if (left-- === 0) throw new Error("the intake was killed");
          ids.add(id!);
          stored.push(...bodies);
        }
      },
      (error) => (error as { code?: string }).code === "22021",
    );
    await queue.submit(request()).catch(() => {});
    left = Number.POSITIVE_INFINITY;
    await queue.submit(request());
    expect(stored.sort()).toEqual(names.filter((name) => name.startsWith("fine")).sort());
  }
});
