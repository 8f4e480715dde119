import type { Sheet } from "@/core/sheet/sheet";
import { band, note, readings } from "./parts";

export const courier: Sheet = {
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
