import type { Attributes, AttributeValue, SeriesIdentity } from "./model";

/**
 * Attributes that name who reports. Only the resource decides them, and for the environment the sender's key: a point,
 * span or log record cannot claim to come from another service, release, instance or environment.
 */
export const ORIGIN_ATTRIBUTES = [
  "service.name",
  "service.namespace",
  "service.version",
  "service.instance.id",
  "deployment.environment.name",
  "deployment.environment",
] as const;

const ORIGIN: ReadonlySet<string> = new Set(ORIGIN_ATTRIBUTES);

/** Whether an attribute names who reports. */
export function isOriginAttribute(name: string): boolean {
  return ORIGIN.has(name);
}

type Levels = Pick<SeriesIdentity, "resource" | "attributes">;

/** The level on which an attribute's value is found: the resource for who reports, else the point before the resource; null where it is missing. */
export function levelOf({ resource, attributes }: Levels, name: string): "attributes" | "resource" | null {
  if (!ORIGIN.has(name) && Object.hasOwn(attributes, name)) return "attributes";
  return Object.hasOwn(resource, name) ? "resource" : null;
}

/** The value of an attribute as conditions and groups see it; undefined where it is missing. */
export function labelOf(levels: Levels, name: string): AttributeValue | undefined {
  const level = levelOf(levels, name);
  return level === null ? undefined : levels[level][name];
}

/** All attributes of a series or record as conditions and groups see them. */
export function labelsOf({ resource, attributes }: Levels): Attributes {
  const labels: Attributes = { ...resource, ...attributes };
  for (const name of ORIGIN_ATTRIBUTES) {
    if (!Object.hasOwn(attributes, name)) continue;
    if (Object.hasOwn(resource, name)) labels[name] = resource[name];
    else delete labels[name];
  }
  return labels;
}
