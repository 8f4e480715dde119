import type { Attributes } from "@/core/metric/model";
import { DAY } from "@/core/window/lengths";
import { courierFailing, memoryOf, queueAtRest, queueBuiltUp, REMINDERS_PER_SECOND, whoSends } from "./model";
import { poisson, type Random } from "./random";
import { explicitShape } from "./shapes";
import { type AddStream, histogramAdvance, instrument, MEMORY, NUMBER, type Turn } from "./streams";

/** The past of the two programs that remind members and hand parcels to the courier company. */

/** A program of one instance that has not been started anew since it began. */
interface PastProgram {
  resource: Attributes;
  start: number;
  fill: (add: AddStream) => void;
  turn: (time: number, every: number) => Turn;
}

const CALLS = instrument("http.client.request.duration", "histogram", "s", "Duration of HTTP client requests");
const DEPTH = instrument("reminder.queue.depth", "gauge", "{reminder}", "Reminders in the queue, by state");
const SENT = instrument("reminder.sent", "sum", "{reminder}", "Reminders that were worked off");
const ANSWERED = explicitShape(0.18, 0.5);
const NOT_ANSWERED = explicitShape(4, 0.02);
const TO_COURIER = { "server.address": "courier.example", "http.request.method": "POST" };

/** @param now when the past ends, Unix ms */
export function courierPrograms(now: number, random: Random): PastProgram[] {
  const program = (service: string, release: string, days: number, fill: PastProgram["fill"]): PastProgram => {
    const start = now - days * DAY;
    const turn = (time: number, every: number): Turn => ({
      time,
      every,
      calls: (REMINDERS_PER_SECOND * every) / 1000,
      up: time - start,
      slow: 1,
    });
    const memory: PastProgram["fill"] = (add) =>
      add(MEMORY, {}, NUMBER, (state, { up }) => {
        state[0] = Math.round(memoryOf(release, up) / 4096) * 4096;
      });
    const all: PastProgram["fill"] = (add) => {
      memory(add);
      fill(add);
    };
    return { resource: whoSends(service, release, 1), start, fill: all, turn };
  };
  const failing = (time: number) => courierFailing(time, now - time);
  const reminders = program("reminders", "1.8.2", 41, (add) => {
    add(DEPTH, { queue: "evening", state: "waiting" }, NUMBER, (state, { time }) => {
      state[0] = Math.round(queueBuiltUp(time) + queueAtRest(time) + 6 * (random() - 0.5));
    });
    add(DEPTH, { queue: "evening", state: "running" }, NUMBER, (state, { time }) => {
      state[0] = poisson(random, REMINDERS_PER_SECOND * (0.2 + 3.8 * failing(time)));
    });
    for (const outcome of ["done", "failed"] as const)
      add(SENT, { queue: "evening", outcome }, NUMBER, (state, { time, calls }) => {
        state[0] += poisson(random, calls * (outcome === "failed" ? failing(time) : 1 - failing(time)));
      });
  });
  const link = program("courier-link", "2.3.0", 23, (add) => {
    const [good, bad] = [histogramAdvance(random, ANSWERED, 1), histogramAdvance(random, NOT_ANSWERED, 1)];
    add(CALLS, { ...TO_COURIER, "http.response.status_code": 202 }, ANSWERED.layout, (state, turn) =>
      good(state, { ...turn, calls: turn.calls * (1 - failing(turn.time)) }),
    );
    add(
      CALLS,
      { ...TO_COURIER, "http.response.status_code": 504, "error.type": "504" },
      NOT_ANSWERED.layout,
      (state, turn) => bad(state, { ...turn, calls: turn.calls * failing(turn.time) }),
    );
  });
  return [reminders, link];
}
