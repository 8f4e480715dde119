import { getOverview } from "@/core/api/calls/releases";
import { isLoopbackAddress } from "@/core/http/served";
import { setting } from "@/core/settings/environment";
import { listServices } from "@/store/registry/catalogue";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

/** Where senders reach the intake, without a port. */
function intakeAt(): string {
  const host = setting("TIN_INTAKE_HOST");
  const named = setting("TIN_PUBLIC_URL");
  // Who listens everywhere is reached by the name that people use.
  const name = isLoopbackAddress(host) ? "localhost" : named === null ? host : new URL(named).hostname;
  return `${setting("TIN_TLS_CERT") === null ? "http" : "https"}://${name}`;
}

export const GET = serve(getOverview, async () => ({
  services: await listServices(database()),
  intakeAt: intakeAt(),
  intakePort: setting("TIN_INTAKE_PORT"),
  grpcPort: setting("TIN_INTAKE_GRPC_PORT"),
}));
