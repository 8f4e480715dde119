import { listServices } from "@/store/catalogue";
import { answering } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

/** GET /api/overview: the services there are, and where the intake listens. */
export function GET(): Promise<Response> {
  return answering(async () =>
    Response.json({
      services: await listServices(database()),
      intakePort: Number(process.env.TIN_INTAKE_PORT ?? 4318),
      grpcPort: Number(process.env.TIN_INTAKE_GRPC_PORT ?? 4317),
    }),
  );
}
