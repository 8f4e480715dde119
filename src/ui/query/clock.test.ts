import { Clock } from "./clock";

test("who listens is told once of each other moment, and of none after it ended", () => {
  const clock = new Clock(0);
  const heard: number[] = [];
  const end = clock.subscribe(() => heard.push(clock.now));
  clock.set(5);
  clock.set(5);
  clock.set(9);
  end();
  clock.set(12);
  expect(heard).toEqual([5, 9]);
  expect(clock.now).toBe(12);
});
