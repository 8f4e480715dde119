import type { Sheet } from "@/core/sheet/sheet";
import { band, readings } from "./parts";

export const hosts: Sheet = {
  name: "Hosts and runtimes",
  purpose: "memory, processors and what restarts",
  tags: ["hosts"],
  readers: [],
  picks: [
    {
      name: "service",
      words: "service",
      source: { of: "values", attribute: "service", metric: "process.memory.usage", where: "", pattern: "" },
      many: true,
      all: true,
      preset: [],
    },
  ],
  bands: [
    band("memory", "Memory", [
      readings(
        "by-service",
        "Memory by service",
        "lines",
        { text: "max of process.memory.usage where service is <service> by service", unit: "MiB" },
        {},
      ),
      readings(
        "by-release",
        "Of the catalogue, by release",
        "lines",
        { text: 'max of process.memory.usage where service is "catalogue" by release', unit: "MiB" },
        {
          thresholds: [{ at: "900 MiB", word: "about to be restarted", wrong: "above" }],
        },
      ),
    ]),
    band("cpu", "Processors", [
      readings(
        "busy",
        "Busy",
        "lines",
        { text: "mean of process.cpu.utilization where service is <service> by service", unit: "%" },
        {},
      ),
      readings(
        "instances",
        "Instance by instance",
        "table",
        [
          'max of process.memory.usage where service is <service> by service, service.instance.id as "memory"',
          {
            text: 'mean of process.cpu.utilization where service is <service> by service, service.instance.id as "busy"',
            unit: "%",
          },
        ],
        { link: "/services/one?service={service.name}", top: 40 },
      ),
    ]),
  ],
};
