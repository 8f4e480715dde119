import type { Batch } from "@/core/otlp/batch";
import { FullError } from "./budget";
import { CommitQueue } from "./queue";

const batch = (points: number, name = "") => ({ points, name }) as unknown as Batch;
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
  expect(results.map(({ status }) => status)).toEqual(["fulfilled", "fulfilled", "rejected", "fulfilled"]);
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
