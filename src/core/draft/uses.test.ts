import { pipelineSchema } from "../pipeline/config";
import { usesOf } from "./uses";

test("steps that a metric comes to, is read by, or is made by", () => {
  const config = pipelineSchema.parse({
    metrics: [
      { id: "a", type: "drop", where: 'metric is "noise.made"' },
      { id: "b", type: "remove", where: 'depot is "Brindle"', attributes: ["locker.id"] },
      { id: "c", type: "compute", reading: "count of loan.failed / count of loan.reserved", to: "loan.failing" },
      { id: "d", type: "drop", where: 'metric starts with "loan"', on: false },
      { id: "e", type: "merge", where: 'unit is "{loan}"', attributes: ["depot"], to: "loan.all" },
    ],
  });
  const told = (name: string, unit: string) => usesOf(config, { name, unit }).map(({ place, how }) => [place, how]);
  expect(told("loan.reserved", "{loan}")).toEqual([
    [2, "may change"],
    [3, "reads"],
    [5, "may change"],
  ]);
  expect(told("loan.failing", "1")).toEqual([
    [2, "may change"],
    [3, "makes"],
  ]);
  expect(told("loan.all", "{loan}")).toEqual([
    [2, "may change"],
    [5, "makes"],
  ]);
  expect(told("noise.made", "1")).toEqual([
    [1, "may change"],
    [2, "may change"],
  ]);
});
