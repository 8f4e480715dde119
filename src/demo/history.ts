import { type Attributes, columnCount, type Kind, type Layout, type PointSet } from "@/core/metric/model";
import { Dictionary, type KnownSeries } from "@/core/otlp/dictionary";
import { DAY, HOUR, MINUTE } from "@/core/window/lengths";
import { noteReleases } from "@/store/commit";
import { connect, transaction } from "@/store/database/connect";
import { migrateStore } from "@/store/database/migrate";
import { ensurePartitions, HOURS, MINUTES, RAW } from "@/store/database/partitions";
import { writeActivity } from "@/store/registry/activity";
import { registerSeries } from "@/store/registry/registry";
import { settledStrips } from "@/store/strips/merge";
import { HOUR_SPAN, pack } from "@/store/strips/mergeWindows";
import { KEEP } from "@/store/strips/retention";
import { type FreshStrip, splitBySpan, writeStrips } from "@/store/strips/strips";
import {
  allPlans,
  callKinds,
  callsPerSecond,
  DEPOTS,
  ENVIRONMENT,
  FINE_HISTORY,
  memoryOf,
  type ReleasePlan,
  slowdown,
  WHOLE_HISTORY,
  whoSends,
} from "./model";
import { poisson, type Random, seeded } from "./random";
import { explicitShape, exponentialShape, type Shape } from "./shapes";
import { keepSheets } from "./sheets/seed";

/**
 * Writes thirteen months of Fern & Anvil into an empty store, ending now: a point an hour, and in the last fourteen days
 * a point a minute.
 */

/** What is generated and committed at a time of the fine part: some spans of merged strips, within one day. */
const CHUNK = 6 * HOUR;
const SEED = 20_240_811;

/** A cumulative or level series of one instance that goes on turn by turn. */
interface Stream {
  series: KnownSeries;
  layout: Layout;
  /** Values of now, in the layout's column order. */
  state: Float64Array;
  /** Adds the events of a turn. */
  advance: (state: Float64Array, turn: Turn) => void;
}

/** What one point covers. */
interface Turn {
  time: number;
  /** Calls to this instance meanwhile, on average. */
  calls: number;
  up: number;
  slow: number;
}

/** One life of an instance: from a start to a restart or its end. */
interface Life {
  plan: ReleasePlan;
  start: number;
  end: number;
  streams: Stream[];
}

/** Adds Poisson events to a cumulative histogram's state; min, max and sum follow from the buckets hit. */
function histogramAdvance(random: Random, shape: Shape, part: number) {
  const { middles } = shape;
  const min = middles.length;
  return (state: Float64Array, { calls, slow }: Turn) => {
    const chances = shape.chances(slow);
    for (let b = 0; b < middles.length; b++) {
      const hits = poisson(random, calls * part * chances[b]);
      if (hits === 0) continue;
      state[b] += hits;
      const middle = middles[b];
      state[min + 2] += hits * middle;
      if (state[min] === 0 || middle < state[min]) state[min] = middle;
      if (middle > state[min + 1]) state[min + 1] = middle;
    }
  };
}

interface Instrument {
  name: string;
  kind: Kind;
  unit: string;
  description: string;
}

const HTTP: Instrument = {
  name: "http.server.request.duration",
  kind: "histogram",
  unit: "s",
  description: "Duration of HTTP server requests",
};
const RESERVED: Instrument = {
  name: "loan.reserved",
  kind: "sum",
  unit: "{loan}",
  description: "Loans that members reserved",
};
/** Renamed in 5.3.0, which is what becomes of names. */
const EXTENDED = (release: string): Instrument => ({
  name: release === "5.3.0" ? "loan.extended" : "loan.extend.count",
  kind: "sum",
  unit: "{loan}",
  description: "Loans that members extended",
});
const QUOTE: Instrument = {
  name: "fee.quote.duration",
  kind: "exponential",
  unit: "s",
  description: "Time to work out a fee",
};
const RESULTS: Instrument = {
  name: "tool.search.results",
  kind: "exponential",
  unit: "{tool}",
  description: "Tools found by a search",
};
const LOOKUPS: Instrument = {
  name: "cache.lookups",
  kind: "sum",
  unit: "{lookup}",
  description: "Look-ups in the stock cache",
};
const MEMORY: Instrument = {
  name: "process.memory.usage",
  kind: "gauge",
  unit: "By",
  description: "Memory in use by the process",
};

class Historian {
  private readonly dictionary = new Dictionary();
  private readonly random = seeded(SEED);
  readonly lives: Life[] = [];

  constructor(private readonly now: number) {
    for (const plan of allPlans()) for (let i = 0; i < plan.instances; i++) this.addLives(plan, i);
  }

  private addLives(plan: ReleasePlan, instance: number): void {
    const end = plan.ended === null ? this.now : this.now - plan.ended;
    const offset = plan.restarts ? (instance * plan.restarts) / plan.instances : 0;
    let start = this.now - plan.started;
    let next = plan.restarts ? start + plan.restarts - offset : end;
    while (start < end) {
      this.lives.push(this.life(plan, instance, start, Math.min(next, end)));
      start = next;
      next = plan.restarts ? start + plan.restarts : end;
    }
  }

  private life(plan: ReleasePlan, instance: number, start: number, end: number): Life {
    const resource = whoSends(plan.service, plan.release, instance + 1);
    const streams: Stream[] = [];
    const add = (instrument: Instrument, attributes: Attributes, layout: Layout, advance: Stream["advance"]) => {
      const { name, kind, unit, description } = instrument;
      const temporality = kind === "gauge" ? "none" : "cumulative";
      const metric = this.dictionary.metric(
        { name, kind, unit, temporality, monotonic: kind !== "gauge" },
        description,
      );
      const series = this.dictionary.series(metric, {
        resource,
        scope: { name: "fern-anvil", version: "" },
        attributes,
      });
      streams.push({ series, layout, state: new Float64Array(columnCount(layout)), advance });
    };
    const { random } = this;
    const kinds = callKinds(plan.service, plan.release);
    for (const kind of kinds) {
      const shape = explicitShape(kind.latency.median, kind.latency.sigma);
      const common = { "http.request.method": kind.method, "http.route": kind.route, ...kind.attributes };
      const ok = kind.method === "POST" && kind.route === "/loans" ? 201 : 200;
      add(
        HTTP,
        { ...common, "http.response.status_code": ok },
        shape.layout,
        histogramAdvance(random, shape, kind.weight * (1 - plan.failing)),
      );
      add(
        HTTP,
        { ...common, "http.response.status_code": 500, "error.type": "500" },
        shape.layout,
        histogramAdvance(random, shape, kind.weight * plan.failing),
      );
    }
    const number: Layout = { kind: "number" };
    const counter =
      (part: number): Stream["advance"] =>
      (state, { calls }) => {
        state[0] += poisson(random, calls * part);
      };
    add(MEMORY, {}, number, (state, { up }) => {
      state[0] = Math.round(memoryOf(plan.release, up) / 4096) * 4096 + Math.round(random() * 300) * 4096;
    });
    if (plan.service === "loans") {
      for (const depot of DEPOTS) {
        add(EXTENDED(plan.release), { depot: depot.name }, number, counter(0.25 * depot.weight));
        for (const [kind, part] of [
          ["hand", 0.5],
          ["garden", 0.3],
          ["powered", 0.2],
        ] as const) {
          add(
            RESERVED,
            { depot: depot.name, "tool.kind": kind, "member.plan": "standard" },
            number,
            counter(0.27 * depot.weight * part),
          );
        }
      }
    }
    if (plan.service === "estimator") {
      for (const kind of kinds) {
        const shape = exponentialShape(kind.latency.median * 0.85, kind.latency.sigma);
        add(QUOTE, kind.attributes, shape.layout, histogramAdvance(random, shape, kind.weight));
      }
    }
    if (plan.service === "catalogue") {
      for (const depot of DEPOTS) {
        const shape = exponentialShape(14, 0.7);
        add(RESULTS, { depot: depot.name }, shape.layout, histogramAdvance(random, shape, 0.5 * depot.weight));
      }
      for (const [outcome, part] of [
        ["hit", 0.86],
        ["miss", 0.14],
      ] as const)
        add(LOOKUPS, { "cache.key": "stock", outcome }, number, counter(2.1 * part));
    }
    return { plan, start, end, streams };
  }

  allSeries(): KnownSeries[] {
    return [...new Set(this.lives.flatMap((life) => life.streams.map(({ series }) => series)))];
  }

  /** When each instance was heard, over all its lives. */
  heard(): { resource: Attributes; first: number; last: number; points: number }[] {
    return this.lives.map(({ streams, start, end }) => ({
      resource: streams[0].series.identity.resource,
      first: start,
      last: end,
      points: Math.floor((end - start) / MINUTE) * streams.length,
    }));
  }

  /** The points of all instances in (from, to], one every `every` ms, per metric id. */
  chunk(from: number, to: number, every: number): Map<number, PointSet[]> {
    const sets = new Map<number, PointSet[]>();
    const after = (time: number) => Math.ceil((time + 1) / every) * every;
    for (const life of this.lives) {
      const first = Math.max(after(from), after(life.start));
      const last = Math.floor(Math.min(to, life.end) / every) * every;
      const count = (last - first) / every + 1;
      if (count < 1) continue;
      const times = Float64Array.from({ length: count }, (_, i) => first + i * every);
      const turns = Array.from(times, (time) => this.turn(life, time, every));
      const zeros = new Float64Array(count);
      const starts = new Float64Array(count).fill(life.start);
      for (const stream of life.streams) {
        const columns = stream.state.length;
        const set: PointSet = {
          layout: stream.layout,
          count,
          series: new Float64Array(count).fill(stream.series.id),
          timeMs: times,
          timeNs: zeros,
          startMs: stream.layout.kind === "number" && stream.series.metric.identity.kind === "gauge" ? zeros : starts,
          startNs: zeros,
          flags: zeros,
          columns: Array.from({ length: columns }, () => new Float64Array(count)),
        };
        for (let i = 0; i < count; i++) {
          stream.advance(stream.state, turns[i]);
          for (let c = 0; c < columns; c++) set.columns[c][i] = stream.state[c];
        }
        const metricId = stream.series.metric.id;
        const found = sets.get(metricId);
        if (found) found.push(set);
        else sets.set(metricId, [set]);
      }
    }
    return sets;
  }

  private turn({ plan, start }: Life, time: number, every: number): Turn {
    const ago = this.now - time;
    const perSecond = callsPerSecond(plan.service, time) * plan.share(ago);
    const calls = (perSecond * every) / 1000 / plan.instances;
    return { time, calls, up: time - start, slow: slowdown(plan, time - start) };
  }
}

function progress(part: number): void {
  const width = 40;
  const done = Math.round(part * width);
  const bar = `${"█".repeat(done)}${"░".repeat(width - done)}`;
  if (process.stdout.isTTY)
    process.stdout.write(`\r• Writing history ${bar} ${Math.round(part * 100)} %${part === 1 ? "\n" : ""}`);
  else if (part === 1) process.stdout.write("• History written\n");
}

/** Hourly points as strips: of 16 days where these are over, else of a day; a last one on the bound joins the minutes. */
function hourStrips(metricId: number, sets: readonly PointSet[], fine: number): FreshStrip[] {
  const strips = (some: readonly PointSet[], level: number, resolution: typeof MINUTES | typeof HOURS) =>
    pack(metricId, some, { level, arrived: null, resolution });
  const [from] = splitBySpan(sets, HOUR_SPAN).keys();
  if (from + HOUR_SPAN <= fine) return strips(sets, 3, HOURS);
  return [...splitBySpan(sets, DAY)].flatMap(([day, some]) =>
    day < fine ? strips(some, 2, HOURS) : strips(some, 3, MINUTES),
  );
}

/** Releases of the programs that have no history, and since how many days they run. */
const OTHERS: readonly [service: string, release: string, days: number][] = [
  ["lockers", "3.1", 210],
  ["lockers", "3.2", 5],
  ["reminders", "1.8.2", 41],
  ["courier-link", "2.3.0", 23],
];

async function writeHistory(): Promise<void> {
  const pool = connect();
  await migrateStore(pool);
  const { rows } = await pool.query("SELECT 1 FROM release WHERE service = 'loans' AND environment = $1 LIMIT 1", [
    ENVIRONMENT,
  ]);
  if (rows.length === 0) {
    const now = Math.floor(Date.now() / MINUTE) * MINUTE;
    const historian = new Historian(now);
    await registerSeries(pool, historian.allSeries());
    const identities = new Map(historian.allSeries().map(({ metric }) => [metric.id, metric.identity]));
    // The fine part begins at a midnight: a day has its hours from one source.
    const fine = Math.floor((now - FINE_HISTORY) / DAY) * DAY;
    const begin = now - WHOLE_HISTORY;
    const write = async (strips: FreshStrip[]) => {
      for (const resolution of [RAW, MINUTES, HOURS] as const) {
        const times = strips.filter((strip) => strip.resolution === resolution).map(({ from }) => from);
        await ensurePartitions(pool, resolution, times);
      }
      await transaction(pool, (client) => writeStrips(client, strips));
    };
    for (let from = Math.floor(begin / HOUR_SPAN) * HOUR_SPAN; from < fine; from += HOUR_SPAN) {
      const to = Math.min(from + HOUR_SPAN - 1, fine);
      const sets = historian.chunk(Math.max(from, begin) - 1, to, HOUR);
      await write([...sets].flatMap(([metricId, some]) => hourStrips(metricId, some, fine)));
      progress(((to - begin) / (fine - begin)) * 0.3);
    }
    for (let from = fine; from < now; from += CHUNK) {
      const to = Math.min(from + CHUNK, now + 1) - 1;
      const sets = historian.chunk(from === fine ? from : from - 1, to, MINUTE);
      const strips = [...sets].flatMap(([metricId, some]) => settledStrips(metricId, identities.get(metricId)!, some));
      await write(strips.filter((strip) => strip.resolution !== RAW || strip.to >= now - KEEP[RAW]));
      progress(0.3 + ((to - fine) / (now - fine)) * 0.69);
    }
    await writeActivity(pool, historian.heard());
    await transaction(pool, (client) =>
      noteReleases(client, [
        ...allPlans().map((plan) => ({
          service: plan.service,
          environment: ENVIRONMENT,
          version: plan.release,
          first: now - plan.started,
          last: plan.ended === null ? now : now - plan.ended,
        })),
        ...OTHERS.map(([service, version, age]) => ({
          service,
          environment: ENVIRONMENT,
          version,
          first: now - age * DAY,
          last: now,
        })),
      ]),
    );
    progress(1);
  }
  await keepSheets(pool);
  await pool.end();
}

await writeHistory();
