import type { Sheet } from "@/core/sheet/sheet";
import { band, note, readings } from "./parts";

/** The sheets that people of Fern & Anvil keep. */

const CALLS = "http.server.request.duration";

const morning: Sheet = {
  name: "The morning look",
  purpose: "what went on overnight, for whoever opens the shop",
  tags: ["daily"],
  readers: [],
  picks: [
    {
      name: "service",
      words: "service",
      source: { of: "values", attribute: "service", metric: CALLS, where: "", pattern: "" },
      many: true,
      all: true,
      preset: [],
    },
  ],
  bands: [
    band("well", "Is everything well", [
      readings(
        "answered",
        "Answered in time",
        "number",
        { text: `share under 500 ms of ${CALLS} where service is <service>`, decimals: 2 },
        {
          against: "1d",
          good: "up",
          thresholds: [{ at: "95 %", word: "less than we promise", wrong: "below" }],
        },
        1,
      ),
      readings(
        "failed",
        "Failed calls",
        "number",
        { text: `share of ${CALLS} that http.response.status_code >= 500 where service is <service>`, decimals: 2 },
        {
          against: "1d",
          good: "down",
          thresholds: [{ at: "1 %", word: "too many", wrong: "above" }],
        },
        1,
      ),
      readings("lent", "Loans reserved", "number", "count of loan.reserved", { against: "1w", good: "up" }, 1),
    ]),
    band("calls", "Calls", [
      readings("traffic", "Calls by service", "stacked", `rate of ${CALLS} where service is <service> by service`, {}),
      readings(
        "p95",
        "19 of 20 calls are faster than",
        "lines",
        `p95 of ${CALLS} where service is <service> by service over 5m`,
        {
          thresholds: [{ at: "500 ms", word: "promised", wrong: "above" }],
        },
      ),
    ]),
    band("shape", "How long calls take", [
      readings("heat", "Their spread over the day", "heat", `spread of ${CALLS} where service is <service> every 15m`, {
        thresholds: [{ at: "500 ms", word: "promised", wrong: "above" }],
      }),
    ]),
    band("queue", "Reminders", [
      readings(
        "depth",
        "Waiting reminders",
        "lines",
        'last of reminder.queue.depth where state is "waiting" by queue',
        {
          thresholds: [{ at: "400", word: "late for breakfast", wrong: "above" }],
        },
      ),
      note(
        "monday",
        "On Mondays",
        "At **08:00** the queue builds up: everybody is reminded at once. It is gone by nine.\n\nIf it is not, look at [courier trouble](/sheets/one?sheet=courier-trouble).",
        1,
      ),
    ]),
  ],
};

const loans: Sheet = {
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

const estimator: Sheet = {
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

const courier: Sheet = {
  name: "Courier trouble",
  purpose: "when parcels of reminders do not go out: what to look at, in this order",
  tags: ["on call"],
  readers: [],
  picks: [],
  bands: [
    band("outside", "Does the courier company answer", [
      readings(
        "failing",
        "Calls that fail",
        "lines",
        'share of http.client.request.duration that error.type is there where service is "courier-link"',
        {
          thresholds: [{ at: "5 %", word: "call them", wrong: "above" }],
        },
      ),
      readings(
        "slow",
        "How long they take",
        "lines",
        [
          'p50 of http.client.request.duration where service is "courier-link"',
          'p95 of http.client.request.duration where service is "courier-link"',
        ],
        {},
      ),
    ]),
    band("inside", "Does it harm us", [
      readings(
        "both",
        "The queue and what goes out",
        "lines",
        [
          { text: 'last of reminder.queue.depth where state is "waiting"', names: "waiting" },
          {
            text: 'rate of http.client.request.duration where service is "courier-link"',
            names: "calls to the courier",
          },
        ],
        {},
      ),
      note(
        "steps",
        "What to do",
        "1. Between **03:10 and 03:24** they restart every night. Wait.\n2. Else write to courier-desk@fern-anvil.example.\n3. If the queue passes 1,000, stop `reminders` from sending anew.",
        1,
      ),
    ]),
  ],
};

const hosts: Sheet = {
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

const lockers: Sheet = {
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

/** By id, with who saved it and why. */
export const DEMONSTRATION_SHEETS: readonly { id: string; sheet: Sheet; who: string; note: string }[] = [
  { id: "morning-look", sheet: morning, who: "Ottilie Marsh", note: "what we look at first" },
  { id: "loans-in-plain-words", sheet: loans, who: "Quill Anvil", note: "for the Tuesday meeting" },
  { id: "estimator-rollout", sheet: estimator, who: "Quill Anvil", note: "2.0.0 goes out" },
  { id: "courier-trouble", sheet: courier, who: "Ottilie Marsh", note: "after the bad Saturday" },
  { id: "hosts-and-runtimes", sheet: hosts, who: "Ottilie Marsh", note: "since the catalogue leaks" },
  { id: "lockers", sheet: lockers, who: "Quill Anvil", note: "firmware 3.2" },
];
