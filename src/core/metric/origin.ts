import type { Attributes } from "./model";
import { valueText } from "./text";

/** Who sends. */
export interface Origin {
  service: string;
  release: string;
  environment: string;
  instance: string;
}

function first(attributes: Attributes, ...names: string[]): string {
  for (const name of names) {
    const value = attributes[name];
    if (value !== undefined && value !== "") return valueText(value);
  }
  return "";
}

/** Who a resource is (OpenTelemetry semantic conventions, "Service" and "Deployment"). */
export function originOf(resource: Attributes): Origin {
  return {
    service: first(resource, "service.name") || "unknown_service",
    release: first(resource, "service.version"),
    environment: first(resource, "deployment.environment.name", "deployment.environment"),
    instance: first(resource, "service.instance.id", "host.name"),
  };
}
