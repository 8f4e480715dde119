import { Budget, BytesInFlight, FullError } from "./budget";

test("one address leaves half of the room to others, and takes more only while it is alone", () => {
  const budget = new Budget(100);
  const busy = new BytesInFlight(budget, "busy");
  busy.take(90);
  const other = new BytesInFlight(budget, "other");
  other.take(10);
  expect(() => busy.take(1)).toThrow(FullError);
  busy.set(40);
  busy.take(10);
  expect(() => busy.take(1)).toThrow("50 bytes of requests of busy are in work");
  other.take(40);
  other.release();
  busy.take(50);
  expect(() => other.take(1)).toThrow("100 bytes of requests are in work");
  busy.release();
  other.take(100);
});
