import { getOverview } from "@/core/api/calls/releases";
import { listServices } from "@/store/catalogue";
import { setNumber } from "@/store/environment";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getOverview, async () => ({
  services: await listServices(database()),
  intakePort: setNumber("TIN_INTAKE_PORT"),
  grpcPort: setNumber("TIN_INTAKE_GRPC_PORT"),
}));
