import { type Attributes, columnCount, type PointSet } from "@/core/metric/model";
import { Dictionary, type KnownSeries } from "@/core/otlp/dictionary";
import { MINUTE } from "@/core/window/lengths";
import { allPlans, callKinds, callsPerSecond, DEPOTS, memoryOf, type ReleasePlan, slowdown, whoSends } from "./model";
import { courierPrograms } from "./pastCourier";
import { poisson, seeded } from "./random";
import { explicitShape, exponentialShape } from "./shapes";
import { type AddStream, histogramAdvance, instrument, MEMORY, NUMBER, type Stream, type Turn } from "./streams";

/** What the instances of Fern & Anvil reported in the past: their series, and the points of any stretch of time, in its order. */

const SEED = 20_240_811;

/** For so long what runs goes on after the end of the past, ms: until the programs themselves are there. */
const AFTERWARDS = 30 * MINUTE;

/** One life of an instance: from a start to a restart or its end. */
export interface Life {
  start: number;
  end: number;
  streams: Stream[];
  /** What a point covers that ends at a time, `every` ms after the one before. */
  turn: (time: number, every: number) => Turn;
}

const HTTP = instrument("http.server.request.duration", "histogram", "s", "Duration of HTTP server requests");
const RESERVED = instrument("loan.reserved", "sum", "{loan}", "Loans that members reserved");
/** Renamed in 5.3.0, which is what becomes of names. */
const EXTENDED = (release: string) =>
  instrument(
    release === "5.3.0" ? "loan.extended" : "loan.extend.count",
    "sum",
    "{loan}",
    "Loans that members extended",
  );
const QUOTE = instrument("fee.quote.duration", "exponential", "s", "Time to work out a fee");
const RESULTS = instrument("tool.search.results", "exponential", "{tool}", "Tools found by a search");
const LOOKUPS = instrument("cache.lookups", "sum", "{lookup}", "Look-ups in the stock cache");
const PROCESSOR = instrument("process.cpu.utilization", "gauge", "1", "Share of a processor in use");
/** A share of a processor: what an instance needs at rest, and what each call takes, s. */
const AT_REST = 0.004;
const EACH_CALL = 0.0003;

/** What all instances of Fern & Anvil reported, from the model, the same each time. */
export class Historian {
  private readonly dictionary = new Dictionary();
  private readonly random = seeded(SEED);
  readonly lives: Life[] = [];

  /** @param now when it ends, Unix ms */
  constructor(private readonly now: number) {
    for (const plan of allPlans()) for (let i = 0; i < plan.instances; i++) this.addLives(plan, i);
    for (const { resource, start, fill, turn } of courierPrograms(now, this.random)) {
      const { streams, add } = this.begin(resource);
      fill(add);
      this.lives.push({ start, end: now + AFTERWARDS, streams, turn });
    }
  }

  private addLives(plan: ReleasePlan, instance: number): void {
    const end = plan.ended === null ? this.now : this.now - plan.ended;
    const last = plan.ended === null ? end + AFTERWARDS : end;
    const offset = plan.restarts ? (instance * plan.restarts) / plan.instances : 0;
    let start = this.now - plan.started;
    let next = plan.restarts ? start + plan.restarts - offset : end;
    while (start < end) {
      this.lives.push(this.life(plan, instance, start, next < end ? next : last));
      start = next;
      next = plan.restarts ? start + plan.restarts : end;
    }
  }

  /** A life's streams, and the way to add one. */
  private begin(resource: Attributes): { streams: Stream[]; add: AddStream } {
    const streams: Stream[] = [];
    const add: AddStream = ({ name, kind, unit, description }, attributes, layout, advance) => {
      const temporality = kind === "gauge" ? "none" : "cumulative";
      const metric = this.dictionary.metric(
        { name, kind, unit, temporality, monotonic: kind !== "gauge" },
        description,
      );
      const scope = { name: "fern-anvil", version: "" };
      const series = this.dictionary.series(metric, { resource, scope, attributes });
      streams.push({ series, layout, state: new Float64Array(columnCount(layout)), advance });
    };
    return { streams, add };
  }

  private life(plan: ReleasePlan, instance: number, start: number, end: number): Life {
    const { streams, add } = this.begin(whoSends(plan.service, plan.release, instance + 1));
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
    const counter =
      (part: number): Stream["advance"] =>
      (state, { calls }) => {
        state[0] += poisson(random, calls * part);
      };
    add(MEMORY, {}, NUMBER, (state, { up }) => {
      state[0] = Math.round(memoryOf(plan.release, up) / 4096) * 4096 + Math.round(random() * 300) * 4096;
    });
    add(PROCESSOR, {}, NUMBER, (state, { calls, every, slow }) => {
      state[0] = Math.min(1, (AT_REST + ((calls * 1000) / every) * EACH_CALL * slow) * (0.9 + 0.2 * random()));
    });
    if (plan.service === "loans") {
      for (const depot of DEPOTS) {
        add(EXTENDED(plan.release), { depot: depot.name }, NUMBER, counter(0.25 * depot.weight));
        for (const [kind, part] of [
          ["hand", 0.5],
          ["garden", 0.3],
          ["powered", 0.2],
        ] as const) {
          add(
            RESERVED,
            { depot: depot.name, "tool.kind": kind, "member.plan": "standard" },
            NUMBER,
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
        add(LOOKUPS, { "cache.key": "stock", outcome }, NUMBER, counter(2.1 * part));
    }
    const turn = (time: number, every: number): Turn => {
      const perSecond = callsPerSecond(plan.service, time) * plan.share(this.now - time);
      const calls = (perSecond * every) / 1000 / plan.instances;
      return { time, every, calls, up: time - start, slow: slowdown(plan, time - start) };
    };
    return { start, end, streams, turn };
  }

  allSeries(): KnownSeries[] {
    return [...new Set(this.lives.flatMap((life) => life.streams.map(({ series }) => series)))];
  }

  /** When each instance was heard up to a time, over all its lives. */
  heard(until: number): { resource: Attributes; first: number; last: number; points: number }[] {
    return this.lives.map(({ streams, start, end }) => ({
      resource: streams[0].series.identity.resource,
      first: start,
      last: Math.min(end, until),
      points: Math.floor((Math.min(end, until) - start) / MINUTE) * streams.length,
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
      const turns = Array.from(times, (time) => life.turn(time, every));
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
}
