import { HOUR } from "../../../src/core/window/lengths";

/** What an open page asks, and how often it asks again: as the questions of the pages have it. */

export interface AskedCall {
  path: string;
  body?: unknown;
  /** s; null where it is asked once. */
  every: number | null;
  /** Whether its answer is kept in proportion to what it cost. */
  counts?: boolean;
}

export interface OpenPage {
  name: string;
  calls: AskedCall[];
}

const query = (parameters: Record<string, string | number>) =>
  new URLSearchParams(Object.entries(parameters).map(([name, value]): [string, string] => [name, String(value)]));

/** @param now Unix ms */
export function openPages(now: number): OpenPage[] {
  // The window that a page begins with, and how often it moves on.
  const span = { from: now - 6 * HOUR, to: now };
  const moves = 15;
  const place = { service: "loans", environment: "production" };
  const zone = "UTC";
  const of = 'http.server.request.duration where service is "loans"';
  const texts = [
    `rate of ${of} by release`,
    `p95 of ${of} by release`,
    `share of http.server.request.duration that error.type is there where service is "loans" by release`,
  ];
  const plates: AskedCall = {
    path: "/api/readings/lines",
    body: { readings: texts.map((text) => ({ text })), ...span, zone },
    every: moves,
  };
  const everywhere: AskedCall[] = [
    { path: "/api/overview", every: 15 },
    { path: `/api/releases?${query(place)}`, every: 15 },
    { path: `/api/rail?${query({ ...place, from: now - 24 * HOUR, to: now })}`, every: 60 },
  ];
  const metric = "http.server.request.duration";
  const pages: OpenPage[] = [
    {
      name: "releases",
      calls: [
        { path: `/api/ladder?${query({ ...place, ...span, metric: "", zone })}`, every: 30 },
        { path: `/api/drift?${query(place)}`, every: 60 },
        plates,
      ],
    },
    {
      name: "services",
      calls: [
        { path: `/api/services?${query(span)}`, every: moves },
        {
          path: "/api/readings",
          body: { readings: [{ text: `p95 of ${of}`, every: 6 * HOUR }], ...span, zone },
          every: moves,
        },
        { path: "/api/targets", every: 15 },
        { path: "/api/senders", every: 15 },
        { path: "/api/catalogue", every: null },
      ],
    },
    {
      name: "a service",
      calls: [
        { path: `/api/services/sections?${query(place)}`, every: 15 },
        { path: "/api/slow", every: null },
        plates,
      ],
    },
    {
      name: "instruments",
      calls: [
        ...["", "scale.m2", "scale.m4", "scale.m6", "scale.m8"].map((after) => ({
          path: `/api/instruments?${query({ after })}`,
          // In five parts, each so much less often.
          every: 100,
          counts: true,
        })),
        { path: "/api/findings", every: 10 },
      ],
    },
    {
      name: "an instrument",
      calls: [
        { path: `/api/instruments/one?${query({ metric })}`, every: 20, counts: true },
        { path: `/api/instruments/latest?${query({ metric, from: now - 900_000, to: now })}`, every: 15 },
      ],
    },
    {
      name: "pipeline",
      calls: [
        { path: "/api/pipeline", every: 5 },
        { path: `/api/instruments?${query({ defined: "true", rows: 200 })}`, every: 20, counts: true },
        { path: `/api/pipeline/growth?${query({ back: 24 * HOUR })}`, every: 60, counts: true },
        { path: "/api/pipeline/price", every: null },
      ],
    },
    {
      name: "scratch",
      calls: [
        { path: "/api/catalogue", every: null },
        { path: `/api/catalogue/attributes?${query({ metric })}`, every: null },
        { path: `/api/reading?${query({ text: texts[1], ...span, zone })}`, every: moves },
        { path: `/api/reading?${query({ text: "rate of scale.m3 by release", ...span, zone })}`, every: null },
        {
          path: `/api/reading?${query({ text: 'rate of scale.m3 where route is "nowhere"', ...span, zone })}`,
          every: null,
        },
      ],
    },
    { name: "store", calls: [{ path: "/api/store", every: 10, counts: true }] },
  ];
  return pages.map(({ name, calls }) => ({ name, calls: [...everywhere, ...calls] }));
}
