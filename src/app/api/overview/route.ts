import { getOverview } from "@/core/api/calls/releases";
import { setting } from "@/core/settings/environment";
import { listServices } from "@/store/registry/catalogue";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getOverview, async () => ({
  services: await listServices(database()),
  intakePort: setting("TIN_INTAKE_PORT"),
  grpcPort: setting("TIN_INTAKE_GRPC_PORT"),
}));
