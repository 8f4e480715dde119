import { getOverview } from "@/core/api/calls/releases";
import { setNumber } from "@/store/database/environment";
import { listServices } from "@/store/registry/catalogue";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getOverview, async () => ({
  services: await listServices(database()),
  intakePort: setNumber("TIN_INTAKE_PORT"),
  grpcPort: setNumber("TIN_INTAKE_GRPC_PORT"),
}));
