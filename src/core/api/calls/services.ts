import { z } from "zod";
import { orderly, place, window } from "../asked";
import { call, done } from "../call";
import { instanceEntry, serviceMetric, serviceSections, slowBounds } from "../services";

/** Who reports. */

export const getInstances = call({
  method: "GET",
  path: "/api/services",
  does: "Lists the instances that were heard in a window.",
  query: z.object(window).superRefine(orderly),
  answer: z.object({ instances: z.array(instanceEntry) }),
  example: { query: { from: 1764000000000, to: 1764003600000 } },
});

export const getServiceMetrics = call({
  method: "GET",
  path: "/api/services/metrics",
  counts: true,
  does: "Lists the metrics of a service.",
  query: z.object(place),
  answer: z.object({ metrics: z.array(serviceMetric) }),
  example: { query: { service: "loans", environment: "production" } },
});

export const getServiceSections = call({
  method: "GET",
  path: "/api/services/sections",
  counts: true,
  does: "Lists what is always worth asking of a service, by what it sends.",
  query: z.object(place),
  answer: serviceSections,
  example: { query: { service: "loans", environment: "production" } },
});

export const getSlow = call({
  method: "GET",
  path: "/api/slow",
  does: "Says what counts as slow, by kind of work, in seconds.",
  answer: slowBounds,
});

export const changeSlow = call({
  method: "PUT",
  path: "/api/slow",
  does: "Changes what counts as slow; what is left out stays.",
  did: "changed from when on a service is slow",
  body: slowBounds.partial(),
  answer: done,
  example: { body: { calls: 0.25 } },
});
