import type { Finding } from "@/core/contract/finding";
import { byKey } from "./findings";

const finding = (subject: string, detail: string): Finding => ({
  code: "mixed",
  subject,
  service: "loans",
  environment: "production",
  release: "5.3.0",
  instance: "",
  detail,
});

test("a metric that comes in three kinds is one finding, which tells them all", () => {
  const found = [
    finding("", "a gauge and a delta histogram"),
    finding("", "a gauge and a cumulative histogram"),
    finding("", "a gauge and a delta histogram"),
    finding("unit", "ms and s"),
  ];
  const all = [...byKey("locker.open.duration", found).values()];
  expect(all.map(({ subject, detail }) => [subject, detail])).toEqual([
    ["", "a gauge and a delta histogram; a gauge and a cumulative histogram"],
    ["unit", "ms and s"],
  ]);
  expect(byKey("another", found).keys().next().value).not.toBe(
    byKey("locker.open.duration", found).keys().next().value,
  );
});
