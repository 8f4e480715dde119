import { conform } from "../contract/conform";
import type { ContractBody } from "../contract/contract";
import type { ArrivedSeries, Finding } from "../contract/finding";
import { originOf } from "../metric/origin";
import { attributesText } from "../metric/text";
import type { KnownSeries } from "../otlp/dictionary";
import { inUnit } from "../reading/convert";
import { type SideBySide, sideBySide } from "../reading/differences";
import { TooMuchError } from "../reading/distribution";
import type { Asked } from "../reading/evaluate";
import { needsOf } from "../reading/language/needs";
import { parseReading } from "../reading/language/parse";
import { ReadingError } from "../reading/language/tree";
import { type HeldSeries, readHeld } from "../reading/offline";
import type { ReadingResult } from "../reading/result";

/** What a draft does to what people look at: readings, and contracts. */

/** A reading that somebody looks at. */
export interface WatchedReading {
  text: string;
  /** Where it is looked at, in words: "contract", "your own". */
  at: string;
}

/** A reading on what is stored as it runs, and as it is drafted. */
export interface ReadingDryRun extends WatchedReading {
  /** Why it cannot be answered or compared; null where it can. */
  problem: string | null;
  /** Both in the unit that it has as it runs. */
  live: ReadingResult | null;
  draft: ReadingResult | null;
  pairs: SideBySide[];
  /** Attributes that it is asked by and that what is stored has as it runs, but not as drafted. */
  gone: string[];
}

/** What a draft would make wrong with a contract, or right. */
export interface ContractDryRun {
  name: string;
  breaks: Finding[];
  mends: Finding[];
}

/** What the series of a metric at hand have for attributes. */
function attributesAt(held: readonly HeldSeries[], metric: string): Set<string> {
  return new Set(held.flatMap((series) => (series.metric.name === metric ? Object.keys(series.attributes) : [])));
}

/** Puts a reading to what is stored either way. */
export function readingDryRun(
  looked: WatchedReading,
  live: readonly HeldSeries[],
  draft: readonly HeldSeries[],
  asked: Asked,
): ReadingDryRun {
  const nothing = { ...looked, problem: null, live: null, draft: null, pairs: [], gone: [] };
  try {
    const tree = parseReading(looked.text);
    const gone = needsOf(tree).flatMap(({ metric, attributes }) => {
      const [had, has] = [attributesAt(live, metric), attributesAt(draft, metric)];
      // Of a metric that is gone altogether, no attribute is to blame.
      return has.size === 0 ? [] : attributes.filter((name) => had.has(name) && !has.has(name));
    });
    const [before, after] = [readHeld(tree, live, asked, asked.from), readHeld(tree, draft, asked, asked.from)];
    const same = inUnit(after, before.unit);
    if (!same) {
      const [old, drafted] = [before.unit || "no unit", after.unit || "no unit"];
      return { ...nothing, problem: `as drafted it is in ${drafted}, which cannot be held against ${old}` };
    }
    return { ...nothing, live: before, draft: same, pairs: sideBySide(before, same), gone: [...new Set(gone)] };
  } catch (error) {
    if (!(error instanceof ReadingError || error instanceof TooMuchError)) throw error;
    return { ...nothing, problem: error.message };
  }
}

/** A series as contracts see it. */
function arrived({ metric, identity }: KnownSeries): ArrivedSeries {
  const { kind, unit, temporality, monotonic } = metric.identity;
  return {
    ...originOf(identity.resource),
    kind,
    unit,
    temporality,
    monotonic,
    attributes: attributesText(identity.attributes),
  };
}

/** Findings that say the same of whomever. */
function byWhat(findings: readonly Finding[]): Map<string, Finding> {
  return new Map(findings.map((one) => [`${one.code} ${one.subject}`, one]));
}

/** What contracts say of what is stored either way; only those of which they say something else. */
export function contractDryRuns(
  contracts: readonly ContractBody[],
  live: ReadonlyMap<string, readonly KnownSeries[]>,
  draft: ReadonlyMap<string, readonly KnownSeries[]>,
): ContractDryRun[] {
  const findings = (contract: ContractBody, series: ReadonlyMap<string, readonly KnownSeries[]>) =>
    byWhat(conform(contract, (series.get(contract.name) ?? []).map(arrived)));
  return contracts.flatMap((contract) => {
    // Of a metric of which nothing comes in these minutes nothing can be said.
    if (!live.has(contract.name)) return [];
    const [before, after] = [findings(contract, live), findings(contract, draft)];
    const only = (a: Map<string, Finding>, b: Map<string, Finding>) =>
      [...a].filter(([key]) => !b.has(key)).map(([, one]) => one);
    const breaks = only(after, before);
    if (!draft.has(contract.name)) breaks.push(vanished(contract));
    // Where nothing is left, nothing was mended.
    const mends = draft.has(contract.name) ? only(before, after) : [];
    return breaks.length + mends.length > 0 ? [{ name: contract.name, breaks, mends }] : [];
  });
}

function vanished({ name, service }: ContractBody): Finding {
  const nowhere = { environment: "", release: "", instance: "" };
  return { code: "silent", subject: "", service, ...nowhere, detail: `nothing called ${name} is stored any more` };
}
