import { and, eq, ne, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { AttributeEntry, MetricEntry } from "@/core/api/instruments";
import type { ReleaseEntry, ServiceEntry } from "@/core/api/releases";
import { labelsOf } from "@/core/metric/labels";
import { MINUTE } from "@/core/window/lengths";
import { metric, release, resource, series } from "../schema";

/** Look-ups in the registry: which services, releases, metrics, attributes and values there are. */

/** Tin Ladder's own processes report under this name; they are not among the services that it is there for. */
export const OWN_SERVICE = "tin-ladder";

/** Heard within this time, a service counts as one that reports, ms. */
const REPORTING = 15 * MINUTE;

/** The services there are, those that report first. */
export async function listServices(pool: pg.Pool): Promise<ServiceEntry[]> {
  const newest = sql<string>`max(${release.firstAt})`;
  const rows = await drizzle(pool)
    .select({
      service: release.service,
      environment: release.environment,
      newestAt: newest,
      lastAt: sql<string>`max(${release.lastAt})`,
    })
    .from(release)
    .where(ne(release.service, OWN_SERVICE))
    .groupBy(release.service, release.environment)
    // Who reports, and of those who changed last: a trial with one release, or one that fell silent, comes behind.
    .orderBy(
      sql`max(${release.lastAt}) > ${Date.now() - REPORTING} DESC`,
      sql`count(*) > 1 DESC`,
      sql`${newest} DESC`,
      release.service,
      release.environment,
    )
    .limit(1000);
  return rows.map((row) => ({ ...row, newestAt: Number(row.newestAt), lastAt: Number(row.lastAt) }));
}

/** Every metric, by name. */
export function listMetrics(pool: pg.Pool): Promise<MetricEntry[]> {
  return drizzle(pool)
    .select({
      name: metric.name,
      kind: metric.kind,
      unit: metric.unit,
      temporality: metric.temporality,
      monotonic: metric.monotonic,
      description: metric.description,
    })
    .from(metric)
    .orderBy(metric.name)
    .limit(10_000);
}

const MAX_VALUES = 100;
const MAX_SERIES = 20_000;

/** The attributes of a metric's series, of points and resources, each with values (the first 100). */
export async function listAttributes(pool: pg.Pool, name: string): Promise<AttributeEntry[]> {
  const rows = await drizzle(pool)
    .select({ own: series.attributes, shared: resource.attributes })
    .from(series)
    .innerJoin(metric, eq(metric.id, series.metricId))
    .innerJoin(resource, eq(resource.id, series.resourceId))
    .where(and(eq(metric.name, name)))
    .orderBy(sql`${series.id} DESC`)
    .limit(MAX_SERIES);
  const found = new Map<string, Set<string>>();
  for (const { own, shared } of rows) {
    for (const [key, value] of Object.entries(labelsOf({ attributes: own, resource: shared }))) {
      let values = found.get(key);
      if (!values) {
        values = new Set();
        found.set(key, values);
      }
      if (values.size < MAX_VALUES) values.add(typeof value === "object" ? JSON.stringify(value) : String(value));
    }
  }
  return [...found]
    .map(([key, values]) => ({ name: key, values: [...values].sort() }))
    .sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** The releases of a service in an environment, newest first. */
export async function listReleases(pool: pg.Pool, service: string, environment: string): Promise<ReleaseEntry[]> {
  return drizzle(pool)
    .select({ release: release.version, firstAt: release.firstAt, lastAt: release.lastAt })
    .from(release)
    .where(and(eq(release.service, service), eq(release.environment, environment)))
    .orderBy(sql`${release.firstAt} DESC`)
    .limit(500);
}
