import type { Sheet } from "@/core/sheet/sheet";
import { band, note, readings } from "./parts";

export const loans: Sheet = {
  name: "Loans in plain words",
  purpose: "how the lending goes, for those who do not read metrics",
  tags: ["business", "weekly"],
  readers: [],
  picks: [
    {
      name: "depot",
      words: "depot",
      source: { of: "values", attribute: "depot", metric: "loan.reserved", where: "", pattern: "" },
      many: true,
      all: true,
      preset: [],
    },
    {
      name: "kind",
      words: "tool kind",
      source: { of: "values", attribute: "tool.kind", metric: "loan.reserved", where: "depot is <depot>", pattern: "" },
      many: true,
      all: true,
      preset: [],
    },
    {
      name: "release",
      words: "release",
      source: { of: "releases", service: "loans" },
      many: false,
      all: false,
      preset: [],
    },
  ],
  bands: [
    band("how-many", "How much is lent in <depot>", [
      readings(
        "reserved",
        "Tools reserved",
        "number",
        { text: "count of loan.reserved where depot is <depot> and tool.kind is <kind>", decimals: 0 },
        {
          against: "1w",
          good: "up",
        },
        1,
      ),
      readings(
        "where",
        "Where",
        "shares",
        "count of loan.reserved where depot is <depot> and tool.kind is <kind> by depot",
        {},
        1,
      ),
      readings(
        "what",
        "What",
        "bars",
        { text: "count of loan.reserved where depot is <depot> and tool.kind is <kind> by tool.kind", decimals: 0 },
        {
          over: "values",
        },
        1,
      ),
    ]),
    band("course", "Over the day", [
      readings(
        "hours",
        "Reserved per hour, by depot",
        "bars",
        "count of loan.reserved where depot is <depot> and tool.kind is <kind> by depot every 1h",
        {
          over: "time",
          top: 5,
          rest: true,
        },
      ),
      readings(
        "table",
        "Depots and kinds side by side",
        "table",
        [
          {
            text: 'count of loan.reserved where depot is <depot> and tool.kind is <kind> by depot, tool.kind as "reserved"',
            decimals: 0,
          },
          'rate of loan.reserved where depot is <depot> and tool.kind is <kind> by depot, tool.kind as "each second"',
        ],
        { sums: true },
      ),
    ]),
    band("extended", "Extended", [
      readings(
        "extensions",
        "Extended, in release <release>",
        "lines",
        "rate of loan.extend.count where release is <release> and depot is <depot> by depot",
        { top: 6 },
      ),
      note(
        "how",
        "How to read this",
        "Each number is for the window at the foot of the page. **A loan is reserved** when a member has chosen a tool and a depot; it is *extended* when they keep it longer.\n\n| word | means |\n| --- | --- |\n| release | a version of the program that lends |\n| kind | hand, garden or powered |",
        1,
      ),
    ]),
  ],
};
