import { Followed, Paced } from "./followed";

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

test("what follows at a pace hears of many moves once, and of where they end", () => {
  const ahead = new Followed<number>();
  const paced = new Paced(ahead);
  const heard: (number | null)[] = [];
  paced.subscribe(() => heard.push(paced.get()));
  for (let i = 0; i < 50; i++) ahead.set(i);
  expect(heard).toEqual([]);
  jest.runAllTimers();
  expect(heard).toEqual([49]);
  jest.runAllTimers();
  expect(heard).toEqual([49]);
});

test("moves that go on are heard of all the while", () => {
  const ahead = new Followed<number>();
  const paced = new Paced(ahead);
  let heard = 0;
  paced.subscribe(() => heard++);
  for (let i = 0; i < 100; i++) {
    ahead.set(i);
    jest.advanceTimersByTime(16);
  }
  expect(heard).toBeGreaterThan(10);
  expect(heard).toBeLessThan(30);
});

test("that nothing is pointed at any more is heard at once, and not taken back later", () => {
  const ahead = new Followed<number>();
  const paced = new Paced(ahead);
  ahead.set(1);
  jest.runAllTimers();
  ahead.set(2);
  ahead.set(null);
  expect(paced.get()).toBeNull();
  jest.runAllTimers();
  expect(paced.get()).toBeNull();
});

test("of many who follow at a pace a few are told at a time, and all end with the last", () => {
  const ahead = new Followed<number>();
  const paced = new Paced(ahead);
  const known: (number | null)[] = Array.from({ length: 9 }, () => null);
  let told = 0;
  known.forEach((_, i) => {
    paced.subscribe(() => {
      known[i] = paced.get();
      told++;
    });
  });
  let most = 0;
  for (let move = 0; move < 60; move++) {
    ahead.set(move);
    told = 0;
    jest.advanceTimersByTime(8);
    most = Math.max(most, told);
  }
  expect(most).toBe(2);
  // None of them is left behind for long.
  for (const value of known) expect(value).toBeGreaterThan(60 - 25);
  jest.runAllTimers();
  expect(known).toEqual(Array.from({ length: 9 }, () => 59));
  ahead.set(60);
  jest.advanceTimersByTime(70);
  ahead.set(null);
  expect(known).toEqual(Array.from({ length: 9 }, () => null));
  jest.runAllTimers();
  expect(paced.get()).toBeNull();
});

test("who stops following in the midst of it hears no more", () => {
  const ahead = new Followed<number>();
  const paced = new Paced(ahead);
  const heard: number[] = [];
  const ends = [0, 1, 2, 3].map((i) => paced.subscribe(() => heard.push(i)));
  ahead.set(1);
  jest.advanceTimersByTime(60);
  ends[2]();
  jest.runAllTimers();
  expect(heard).toEqual([0, 1, 3]);
});
