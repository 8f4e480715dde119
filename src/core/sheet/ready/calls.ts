import type { ReadyBand, ReadyPlate, ReadySheet } from "./definition";
import { EVERY_ONE, parted, timedBands } from "./timed";

/** Calls that a service answers and makes, by the conventions for HTTP and RPC. */

/** A table of every part: how often, how long, how many fail. */
const table = (title: string, by: readonly string[]): readonly ReadyPlate[] => [
  {
    title,
    by,
    needs: "error.type",
    text: [
      'rate of {metric} where {where} by {by} as "how many"',
      'p95 of {metric} where {where} by {by} as "how long, p95"',
      'share of {metric} that error.type is there where {where} by {by} as "that fail"',
    ],
    as: "table",
    settings: { top: 40 },
  },
];

const ANSWERED = [
  "http.server.request.duration",
  "rpc.server.call.duration",
  "rpc.server.duration",
  "http.server.duration",
];
const ROUTES = ["http.route", "rpc.method", "http.request.method"];

const MADE = [
  "http.client.request.duration",
  "rpc.client.call.duration",
  "rpc.client.duration",
  "http.client.duration",
];
const PLACES = ["server.address", "rpc.service", "http.request.method"];

const bands: readonly ReadyBand[] = [
  {
    title: "At a glance",
    section: "Calls",
    work: "calls",
    of: ANSWERED,
    plates: [
      { title: "Calls a second", text: "rate of {metric} where {where}", as: "number" },
      {
        title: "Slow",
        text: "share over {slow} of {metric} where {where}",
        as: "number",
        settings: { good: "down" },
        decimals: 2,
      },
      {
        title: "Failing",
        needs: "error.type",
        text: "share of {metric} that error.type is there where {where}",
        as: "number",
        settings: { good: "down" },
        decimals: 2,
      },
    ],
  },
  ...timedBands({ section: "Calls", work: "calls", of: ANSWERED }),
  {
    title: "Routes",
    section: "Calls",
    work: "calls",
    of: ANSWERED,
    plates: [...parted("route", ROUTES), ...table("Route by route", ROUTES)],
  },
  {
    title: "How long they take, and how they end",
    section: "Calls",
    work: "calls",
    of: ANSWERED,
    plates: [
      EVERY_ONE,
      {
        title: "By what they answer",
        by: ["http.response.status_code", "rpc.response.status_code", "rpc.grpc.status_code"],
        text: "rate of {metric} where {where} by {by}",
        as: "stacked",
      },
      {
        title: "At once",
        of: ["http.server.active_requests"],
        text: "max of {metric} where {where} by release",
      },
    ],
  },
  ...timedBands({ section: "Outgoing calls", work: "outgoing", of: MADE }),
  {
    title: "Places called",
    section: "Outgoing calls",
    work: "outgoing",
    of: MADE,
    plates: [...parted("place called", PLACES), ...table("Place by place", PLACES)],
  },
];

export const calls: ReadySheet = {
  id: "calls",
  name: "Calls",
  purpose: "how often it is called, how long it takes, what fails, and how those do whom it calls",
  bands,
};
