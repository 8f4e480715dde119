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
