import type pg from "pg";
import type { PickValues } from "@/core/api/sheets";
import { Sparing } from "@/core/cache/sparing";
import type { AttributeValue } from "@/core/metric/model";
import { valueText } from "@/core/metric/text";
import { compilePattern } from "@/core/pattern/pattern";
import { type Picks, predicate } from "@/core/reading/language/conditions";
import { attributesOf } from "@/core/reading/language/needs";
import { parseCondition } from "@/core/reading/language/parse";
import { canonicalAttribute, ReadingError } from "@/core/reading/language/tree";
import { orderedValues } from "@/core/sheet/chosen";
import type { PickSource } from "@/core/sheet/pick";
import { pickNamed } from "@/core/sheet/pickText";
import { OWN_SERVICE } from "../registry/catalogue";
import { labelSql } from "../registry/labelSql";

/** The values that picks can have, from what arrived. */

const MAX_VALUES = 1000;
/** Different combinations of an attribute and those of its condition that are looked at. */
const MAX_COMBINATIONS = 50_000;
const MAX_CUT = 12;

interface Found {
  values: (AttributeValue | null)[];
  series: string;
}

/** The combinations of some attributes that series have. */
async function combinations(client: pg.PoolClient, metric: string, names: readonly string[]): Promise<Found[]> {
  const { rows } = await client.query<Found>(
    `SELECT to_jsonb(found) AS values, count(*) AS series FROM (
       SELECT ARRAY(SELECT ${labelSql("name")} FROM unnest($1::text[]) WITH ORDINALITY AS n(name, at) ORDER BY at) AS found
       FROM series s JOIN resource r ON r.id = s.resource_id JOIN metric m ON m.id = s.metric_id
       WHERE m.name = $2
     ) AS each GROUP BY found ORDER BY count(*) DESC LIMIT ${MAX_COMBINATIONS}`,
    [names, metric],
  );
  return rows;
}

/** The values of an attribute of whatever metric: from those that are remembered, because all series may be very many. */
async function valuesEverywhere(client: pg.PoolClient, name: string): Promise<Found[]> {
  const { rows } = await client.query<{ value: string; resources: string }>(
    `SELECT value, sum(n) AS resources FROM (
       SELECT DISTINCT value, 0 AS n FROM known_value WHERE key = $1
       UNION ALL
       SELECT coalesce(attributes ->> $1, ''), 0 FROM resource WHERE attributes ? $1 AND service <> $2
     ) AS each GROUP BY value LIMIT ${MAX_COMBINATIONS}`,
    [name, OWN_SERVICE],
  );
  return rows.map(({ value, resources }) => ({ values: [value], series: resources }));
}

/** What a pattern cuts out of a value: its first group, or all that it matches; null where it does not match. */
function cutBy(pattern: string): (value: string) => string | null {
  if (pattern === "") return (value) => value;
  const compiled = compilePattern(pattern);
  return (value) => {
    const matcher = compiled.matcher(value);
    if (!matcher.find()) return null;
    return matcher.groupCount() > 0 ? matcher.group(1) : matcher.group();
  };
}

async function valuesOf(
  client: pg.PoolClient,
  source: Extract<PickSource, { of: "values" }>,
  picks: Picks,
  stillWanted: () => void,
): Promise<PickValues> {
  const condition = parseCondition(source.where);
  if (condition !== null && source.metric === "")
    throw new ReadingError("a condition needs a metric whose series it is about", 0, "say of which metric");
  const attribute = canonicalAttribute(source.attribute);
  const names = [...new Set([attribute, ...attributesOf(condition)])];
  const passes = predicate(condition, picks);
  const cut = cutBy(source.pattern);
  const counts = new Map<string, number>();
  const pairs = new Map<string, string | null>();
  for (const { values, series } of source.metric === ""
    ? await valuesEverywhere(client, attribute)
    : await combinations(client, source.metric, names)) {
    stillWanted();
    const [value] = values;
    if (value === null || value === undefined) continue;
    const entries = names.flatMap((name, i) => (values[i] == null ? [] : [[name, values[i]]]));
    if (!passes(Object.fromEntries(entries))) continue;
    const text = valueText(value);
    const part = cut(text);
    if (pairs.size < MAX_CUT) pairs.set(text, part);
    if (part !== null && part !== "") counts.set(part, (counts.get(part) ?? 0) + Number(series));
  }
  const all = orderedValues([...counts.keys()]);
  return {
    values: all.slice(0, MAX_VALUES).map((value) => ({ value, series: counts.get(value)! })),
    all: all.length,
    cut: source.pattern === "" ? [] : [...pairs].map(([from, to]) => ({ from, to })),
  };
}

async function listed(client: pg.PoolClient, text: string, values: readonly string[]): Promise<PickValues> {
  const { rows } = await client.query<{ value: string }>(text, [...values]);
  return {
    values: rows.slice(0, MAX_VALUES).map(({ value }) => ({ value, series: 0 })),
    all: rows.length,
    cut: [],
  };
}

/** Sheets that stay open ask again and again: what was found is kept in proportion to what it cost. */
const kept = new Sparing(50, 60_000, 500);

/**
 * The values of a pick.
 *
 * @param picks what is chosen of the picks that its source names
 * @param stillWanted throws where nobody waits for them any more
 * @throws ReadingError where its condition is not understood
 */
export function pickValues(
  client: pg.PoolClient,
  source: PickSource,
  picks: Picks,
  stillWanted: () => void,
): Promise<PickValues> {
  return kept.answer(JSON.stringify([source, picks]), () => found(client, source, picks, stillWanted));
}

async function found(
  client: pg.PoolClient,
  source: PickSource,
  picks: Picks,
  stillWanted: () => void,
): Promise<PickValues> {
  switch (source.of) {
    case "values":
      return valuesOf(client, source, picks, stillWanted);
    case "list":
      return { values: source.values.map((value) => ({ value, series: 0 })), all: source.values.length, cut: [] };
    case "text":
      return { values: [], all: 0, cut: [] };
    case "releases": {
      const { service } = source;
      const named = pickNamed(service);
      const services = named === null ? (service === "" ? [] : [service]) : [...(picks[named] ?? [])];
      return listed(
        client,
        `SELECT version AS value FROM release
         WHERE version <> '' AND service <> '${OWN_SERVICE}' AND (cardinality($1::text[]) = 0 OR service = ANY($1))
         GROUP BY version ORDER BY max(first_at) DESC`,
        [services as unknown as string],
      );
    }
    case "services":
      return listed(
        client,
        `SELECT DISTINCT service AS value FROM release WHERE service NOT IN ('', '${OWN_SERVICE}') ORDER BY 1`,
        [],
      );
    case "environments":
      return listed(
        client,
        `SELECT DISTINCT environment AS value FROM release WHERE environment <> '' AND service <> '${OWN_SERVICE}' ORDER BY 1`,
        [],
      );
  }
}
