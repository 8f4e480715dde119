import { z } from "zod";
import { ladderSetting } from "../release/setting";
import { driftShift } from "./drift";
import { judgedParts } from "./judged";

/** What the pages of releases are answered: services, ladders, the rail. Times in Unix ms. */

/** A release as it was announced. */
export const announcementEntry = z.object({
  release: z.string(),
  at: z.number().meta({ description: "When it is rolled out." }),
  commit: z.string(),
  author: z.string(),
  notes: z.string(),
  link: z.string(),
  share: z
    .number()
    .nullable()
    .meta({ description: "The part of the traffic that it is meant to have; null: nothing is meant." }),
  announcedBy: z.string(),
  announcedAt: z.number(),
});
export type Announcement = z.infer<typeof announcementEntry>;

const mark = z.object({ release: z.string(), at: z.number() });
const gaps = z.array(z.number().nullable());
/** A percentile with its bounds; null: none on that side. */
const bounded = z.object({ value: z.number(), low: z.number().nullable(), high: z.number().nullable() }).nullable();

const judged = z.object(judgedParts).nullable();

const rung = z.object({
  release: z.string().nullable(),
  servedFrom: z.number(),
  servedTo: z.number(),
  calls: z.number(),
  stays: z
    .array(z.object({ from: z.number(), to: z.number() }))
    .meta({ description: "The spans in which it served, the latest last." }),
  throughput: gaps.meta({ description: "Calls per second by step." }),
  peak: z.number(),
  recentRate: z.number().nullable(),
  recentShare: z.number().nullable(),
  p50: bounded,
  p95: bounded,
  errors: z.number().nullable().meta({ description: "Share of failed calls in the window." }),
  errorBounds: z
    .object({ low: z.number(), high: z.number() })
    .nullable()
    .meta({ description: "Within which the true share lies with 99 %." }),
  heat: z.array(z.number()).meta({ description: "Share of calls per bin of the axis." }),
  change: z
    .object({
      against: z.string().nullable().meta({ description: "The release that it is held against." }),
      way: z.enum(["side by side", "before and after"]),
      time: z.number().meta({ description: "How much time of each is compared, ms." }),
      latency: judged.meta({ description: "The p95 of calls, relative: 0.1 is 10 % more." }),
      failures: judged.meta({ description: "The share of failed calls, as a difference of parts of 1." }),
    })
    .nullable()
    .meta({ description: "How it does against that release; null: there is nothing to hold it against." }),
  columns: gaps.meta({ description: "The team's own measures over the window, in the order of its setting." }),
});

export const ladderAnswer = z.object({
  service: z.string(),
  environment: z.string(),
  metric: z.string().nullable().meta({ description: "The histogram of calls that it is read from." }),
  metrics: z.array(z.string()).meta({ description: "All that it could be read from." }),
  unit: z.string(),
  failed: z.string().meta({ description: "Which calls count as failed, as a condition." }),
  from: z.number(),
  to: z.number(),
  every: z.number(),
  heard: z.array(z.object({ release: z.string(), firstAt: z.number(), lastAt: z.number() })),
  announced: z.array(announcementEntry).meta({ description: "The latest first." }),
  setting: ladderSetting.meta({ description: "How the team looks at the releases of this service." }),
  columnForms: z
    .array(
      z.object({ unit: z.string(), share: z.boolean().meta({ description: "Whether values are parts of a whole." }) }),
    )
    .meta({ description: "What the team's own measures are in." }),
  times: z.array(z.number()),
  axis: z.array(z.number()).meta({ description: "Bounds of the bins, rising, in the metric's unit." }),
  rungs: z.array(rung).meta({ description: "The newest, and those that serve at the end of the window." }),
  older: z.number().meta({ description: "Rungs of older releases in this window, which are left out." }),
  recentFrom: z.number(),
  settledTo: z.number().nullable(),
});
export type LadderAnswer = z.infer<typeof ladderAnswer>;

export const railAnswer = z.object({
  from: z.number(),
  to: z.number(),
  times: z.array(z.number()),
  traffic: gaps.meta({ description: "Calls per second of the service." }),
  marks: z.array(mark),
  shifts: z.array(driftShift).meta({ description: "What changed in it without a release." }),
});
export type RailAnswer = z.infer<typeof railAnswer>;

export const serviceEntry = z.object({
  service: z.string(),
  environment: z.string(),
  newestAt: z.number().meta({ description: "When its newest release was first heard." }),
  lastAt: z.number(),
});
export type ServiceEntry = z.infer<typeof serviceEntry>;

export const overview = z.object({
  services: z.array(serviceEntry),
  intakeAt: z.string().meta({ description: "Where senders reach the intake, without a port: http://localhost." }),
  intakePort: z.number(),
  grpcPort: z.number().meta({ description: "0: no gRPC." }),
});

export type Overview = z.infer<typeof overview>;

export const releaseEntry = z.object({ release: z.string(), firstAt: z.number(), lastAt: z.number() });
export type ReleaseEntry = z.infer<typeof releaseEntry>;
