import { bigint, doublePrecision, index, jsonb, pgTable, primaryKey, text } from "drizzle-orm/pg-core";
import type { ComparisonAnswer } from "@/core/api/comparison";
import type { Drift } from "@/core/api/drift";
import type { ServiceOutlook } from "@/core/api/home";
import type { LadderSetting } from "@/core/release/setting";

/** What is known of releases beside what is heard of them: announcements, how a team looks at them, and what was made of it. */

/** A release as somebody announced it, before it was heard or afterwards. */
export const announcement = pgTable(
  "announcement",
  {
    service: text().notNull(),
    environment: text().notNull(),
    version: text().notNull(),
    /** When it is rolled out, Unix ms. */
    at: bigint({ mode: "number" }).notNull(),
    commit: text().notNull(),
    author: text().notNull(),
    notes: text().notNull(),
    link: text().notNull(),
    /** The part of the traffic that it is meant to have; null: nothing is meant. */
    share: doublePrecision(),
    announcedBy: text("announced_by").notNull(),
    announcedAt: bigint("announced_at", { mode: "number" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.service, table.environment, table.version] })],
);

/** How a team looks at the releases of a service. */
export const ladderSetting = pgTable(
  "ladder_setting",
  {
    service: text().notNull(),
    environment: text().notNull(),
    content: jsonb().$type<LadderSetting>().notNull(),
    changedBy: text("changed_by").notNull(),
    changedAt: bigint("changed_at", { mode: "number" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.service, table.environment] })],
);

/** What was made of a service when it was looked at last, ahead of anybody who asks. */
export const serviceOutlook = pgTable(
  "service_outlook",
  {
    service: text().notNull(),
    environment: text().notNull(),
    at: bigint({ mode: "number" }).notNull(),
    content: jsonb().$type<ServiceOutlook>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.service, table.environment] })],
);

/** What changed of a service in the last weeks without a release. */
export const serviceDrift = pgTable(
  "service_drift",
  {
    service: text().notNull(),
    environment: text().notNull(),
    at: bigint({ mode: "number" }).notNull(),
    content: jsonb().$type<Drift>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.service, table.environment] })],
);

/** A comparison with its figures as they were. */
export const keptComparison = pgTable(
  "kept_comparison",
  {
    id: text().primaryKey(),
    at: bigint({ mode: "number" }).notNull(),
    who: text().notNull(),
    content: jsonb().$type<ComparisonAnswer>().notNull(),
  },
  (table) => [index("kept_comparison_at").on(table.at)],
);
