import type { Sheet } from "@/core/sheet/sheet";
import { band, note, readings } from "./parts";

const CALLS = "http.server.request.duration";

export const estimator: Sheet = {
  name: "Estimator rollout",
  purpose: "2.0.0 beside 1.9.4, until one of them serves alone",
  tags: ["rollout"],
  readers: [],
  picks: [
    {
      name: "kind",
      words: "tool kind",
      source: { of: "values", attribute: "tool.kind", metric: "fee.quote.duration", where: "", pattern: "" },
      many: true,
      all: true,
      preset: [],
    },
  ],
  bands: [
    band("split", "How the calls are split", [
      readings(
        "share",
        "Part of the calls",
        "shares",
        `count of ${CALLS} where service is "estimator" by release`,
        {},
        1,
      ),
      readings(
        "over-time",
        "Calls by release",
        "stacked",
        `rate of ${CALLS} where service is "estimator" by release`,
        {},
      ),
    ]),
    band("speed", "Is it slower", [
      readings(
        "p95",
        "A quote, p95",
        "lines",
        'p95 of fee.quote.duration where service is "estimator" and tool.kind is <kind> by release over 15m',
        {},
      ),
      readings(
        "by-kind",
        "By kind of tool",
        "table",
        [
          'p95 of fee.quote.duration where tool.kind is <kind> by tool.kind, release as "p95"',
          {
            text: 'count of fee.quote.duration where tool.kind is <kind> by tool.kind, release as "quotes"',
            decimals: 0,
          },
        ],
        { sort: "tool.kind", falling: false },
      ),
    ]),
    band("shapes", "How quotes lie", [
      readings(
        "spread",
        "Both releases beside each other",
        "distribution",
        'spread of fee.quote.duration where service is "estimator" and tool.kind is <kind> by release',
      ),
      note(
        "reason",
        "Mind the mix",
        "2.0.0 gets more quotes for *powered* tools, which take longest. Over all it looks slower; **held to one kind of tool it is the same**.",
      ),
    ]),
  ],
};
