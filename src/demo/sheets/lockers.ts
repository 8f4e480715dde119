import type { Sheet } from "@/core/sheet/sheet";
import { band, readings } from "./parts";

export const lockers: Sheet = {
  name: "Lockers",
  purpose: "do doors open, and how quickly",
  tags: ["lockers"],
  readers: [],
  picks: [
    {
      name: "depot",
      words: "depot",
      source: { of: "values", attribute: "depot", metric: "locker_open_duration_seconds", where: "", pattern: "" },
      many: true,
      all: true,
      preset: [],
    },
    {
      name: "row",
      words: "row",
      source: {
        of: "values",
        attribute: "locker_id",
        metric: "locker_open_duration_seconds",
        where: "depot is <depot>",
        pattern: "^(\\d)",
      },
      many: false,
      all: true,
      preset: [],
    },
  ],
  bands: [
    band("doors", "Doors in <depot>", [
      readings(
        "p95",
        "19 of 20 doors open within",
        "lines",
        "p95 of locker_open_duration_seconds where depot is <depot> and locker_id starts with <row> by depot over 15m",
        {},
      ),
      readings(
        "how-many",
        "Doors opened",
        "bars",
        {
          text: "count of locker_open_duration_seconds where depot is <depot> and locker_id starts with <row> by depot",
          decimals: 0,
        },
        {},
        1,
      ),
    ]),
    band("slowest", "The slowest", [
      readings(
        "table",
        "Lockers, the slowest first",
        "table",
        [
          'p95 of locker_open_duration_seconds where depot is <depot> and locker_id starts with <row> by depot, tool_kind top 20 as "p95"',
          {
            text: 'count of locker_open_duration_seconds where depot is <depot> and locker_id starts with <row> by depot, tool_kind as "opened"',
            decimals: 0,
          },
        ],
        {},
      ),
    ]),
  ],
};
