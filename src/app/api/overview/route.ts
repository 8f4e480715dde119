import { listServices } from "@/store/catalogue";
import { setNumber } from "@/store/environment";
import { answering } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

/** GET /api/overview: the services there are, and where the intake listens. */
export function GET(): Promise<Response> {
  return answering(async () =>
    Response.json({
      services: await listServices(database()),
      intakePort: setNumber("TIN_INTAKE_PORT"),
      grpcPort: setNumber("TIN_INTAKE_GRPC_PORT"),
    }),
  );
}
