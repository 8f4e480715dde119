import type { LadderAnswer } from "@/core/api/releases";
import { prepareDistributions } from "@/core/compare/distributions";
import { judgeRung } from "@/core/compare/rungs";
import type { Side } from "@/core/compare/side";
import { sidesByRelease } from "@/core/reading/comparing/sides";
import { ladderOf, shownRungs } from "@/core/reading/ladder";
import { parseReading } from "@/core/reading/language/parse";
import { metricText, serviceTests } from "@/core/reading/language/quote";
import type { MeasureNode } from "@/core/reading/language/tree";
import { printWithin } from "@/core/reading/language/within";
import { newestFirst } from "@/core/release/order";
import type { LadderSetting } from "@/core/release/setting";
import { failedCondition } from "@/core/service/callMetrics";
import { MINUTE } from "@/core/window/lengths";
import { defaultStep, stepBounds } from "@/core/window/steps";
import { announcementsOf } from "@/store/releases/announcements";
import { ladderSettingOf } from "@/store/releases/ladderSettings";
import { baselineFor } from "../comparison/chooseBaseline";
import type { Loader } from "../load";
import { loaderOf, type Surroundings } from "../surroundings";
import { unlessUnreadable } from "../unreadable";
import { callMetrics, LISTED, releasesSeen } from "./callsOf";
import { readWith } from "./reading";

const RECENT = 5 * MINUTE;

/** The releases of a service, side by side. */
export interface LadderJob {
  type: "ladder";
  service: string;
  environment: string;
  /** "" lets the engine choose. */
  metric: string;
  from: number;
  to: number;
  zone: string;
}

/** Bounds of pieces of a minute or more out of those of steps; what may still change is left out. */
function settledPieces(steps: Float64Array, settledTo: number, times: number): Float64Array {
  return steps.filter((bound, i) => i % times === 0 && bound <= settledTo);
}

/** One of a team's own measures: what it is in, and its value by release. */
interface OwnColumn {
  form: { unit: string; share: boolean };
  values: Map<string | null, number | null>;
}

/** A team's own measures over the window, by release; what cannot be read says nothing. */
async function readColumns(
  loader: Loader,
  { columns }: LadderSetting,
  { service, environment, from, to, zone }: LadderJob,
): Promise<OwnColumn[]> {
  const found: OwnColumn[] = [];
  for (const { reading } of columns) {
    const text = printWithin(reading, serviceTests(service, environment));
    const asked = { text, from, to, every: to - from, zone, picks: {} };
    const answer = await unlessUnreadable(readWith(loader, asked));
    const values = (answer?.series ?? []).map(
      ({ labels, total }) => [labels["service.version"] ?? null, total] as const,
    );
    found.push({ form: { unit: answer?.unit ?? "", share: answer?.share ?? false }, values: new Map(values) });
  }
  return found;
}

export async function answerLadder(around: Surroundings, job: LadderJob): Promise<LadderAnswer> {
  const { client } = around;
  const { service, environment, from, to, zone } = job;
  const setting = await ladderSettingOf(client, service, environment);
  const found = await callMetrics(client, service, environment);
  const chosen =
    [job.metric, setting.metric].map((name) => found.find((one) => one.name === name)).find(Boolean) ?? found[0];
  const every = defaultStep(from, to, 60_000);
  const heard = await releasesSeen(client, service, environment, job, [setting.against]);
  const announced = await announcementsOf(client, service, environment);
  const metrics = found.map(({ name }) => name);
  const common = { service, environment, metrics, from, to, every, heard: heard.slice(0, LISTED), announced, setting };
  if (!chosen)
    return {
      ...common,
      columnForms: [],
      metric: null,
      unit: "",
      failed: "",
      times: [],
      axis: [],
      rungs: [],
      older: 0,
      recentFrom: to,
      settledTo: null,
    };
  const text = `p50 of ${metricText(chosen.name)} where ${serviceTests(service, environment)}`;
  const node = parseReading(text).expression as MeasureNode;
  const steps = stepBounds(from, to, every, zone);
  const recentFrom = Math.max(from, to - RECENT);
  const bounds = Float64Array.from(new Set([...steps, recentFrom])).sort();
  const loader = loaderOf(around);
  const source = await loader.source(node, from, to, bounds);
  const failed = setting.failed || failedCondition(chosen.name);
  const ladder = ladderOf(source, steps, { metric: chosen.name, failed }, RECENT);
  const first = new Map(heard.map((one) => [one.release, one]));
  const known = ladder.rungs.map((rung) => ({
    rung,
    release: rung.release,
    firstAt: first.get(rung.release ?? "")?.firstAt ?? 0,
    lastAt: first.get(rung.release ?? "")?.lastAt ?? 0,
  }));
  const ordered = newestFirst(known);
  const shown = new Set(shownRungs(ordered.map(({ rung }) => rung)));
  await prepareDistributions();
  const times = Math.max(1, Math.ceil(MINUTE / every));
  const pieces = settledPieces(steps, ladder.settledTo ?? to, times);
  const named = ordered.flatMap(({ release, firstAt, lastAt }) =>
    release === null ? [] : [{ release, firstAt, lastAt }],
  );
  const held = ordered.flatMap(({ rung, release }, i) => {
    if (!shown.has(rung)) return [];
    const before = ordered.at(i + 1)?.release ?? null;
    const against = (release === null ? null : baselineFor(named, release, setting.against)?.release) ?? before;
    return [{ rung, release, against }];
  });
  const needed = new Set(held.flatMap(({ release, against }) => [release, against]));
  const sides =
    pieces.length > 1
      ? sidesByRelease(source, { metric: chosen.name, failed }, pieces, (release) => needed.has(release))
      : new Map<string | null, Side>();
  const columns = await readColumns(loader, setting, job);
  const rungs = held.map(({ rung, release, against }) => {
    // On the ladder a release is held against others only.
    const other = ordered.some((one) => one.release === against && one.release !== release);
    const change = other
      ? judgeRung(sides.get(release), sides.get(against), against, every * times, setting.tolerances)
      : null;
    return { ...rung, change, columns: columns.map(({ values }) => values.get(release) ?? null) };
  });
  const columnForms = columns.map(({ form }) => form);
  const older = ordered.length - rungs.length;
  return { ...common, ...ladder, rungs, older, columnForms, metric: chosen.name, unit: chosen.unit, failed };
}
