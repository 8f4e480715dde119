import type { Layout } from "../../metric/model";
import { layoutProblem } from "../../metric/pointLimits";
import type { KnownMetric } from "../dictionary";
import { Group } from "./group";
import { exactLayoutKey } from "./layoutKeys";

/** The points of a batch by metric and layout. */
export class Groups {
  private readonly byMetric = new Map<KnownMetric, Map<string, Group>>();

  /** @param owner whose points they are */
  constructor(private readonly owner: object) {}

  private ofMetric(metric: KnownMetric): Map<string, Group> {
    let groups = this.byMetric.get(metric);
    if (!groups) {
      groups = new Map();
      this.byMetric.set(metric, groups);
    }
    return groups;
  }

  /** The group of a metric for exactly this layout, which came in already. */
  of(metric: KnownMetric, layout: Layout): Group {
    const groups = this.ofMetric(metric);
    const key = exactLayoutKey(layout);
    let group = groups.get(key);
    if (!group) {
      group = new Group(metric, layout, this.owner);
      groups.set(key, group);
    }
    return group;
  }

  /**
   * The group of a metric for a layout that somebody sent.
   *
   * @param key is equal for equal layouts
   * @returns what is wrong with the layout, in words, where it is refused
   */
  admit(metric: KnownMetric, key: string, layout: () => Layout): Group | string {
    const groups = this.ofMetric(metric);
    let group = groups.get(key);
    if (group) return group;
    const made = layout();
    const problem = layoutProblem(made);
    if (problem) return problem;
    group = new Group(metric, made, this.owner);
    groups.set(key, group);
    return group;
  }

  /** All of them. */
  all(): Group[] {
    return [...this.byMetric.values()].flatMap((groups) => [...groups.values()]);
  }

  /** Those of each metric. */
  *byMetrics(): Iterable<[metric: KnownMetric, groups: Group[]]> {
    for (const [metric, groups] of this.byMetric) yield [metric, [...groups.values()]];
  }

  /** Takes all of them out. */
  take(): Group[] {
    const all = this.all();
    this.byMetric.clear();
    return all;
  }
}
