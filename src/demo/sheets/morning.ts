import type { Sheet } from "@/core/sheet/sheet";
import { band, note, readings } from "./parts";

const CALLS = "http.server.request.duration";

export const morning: Sheet = {
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
