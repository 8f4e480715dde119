import { getHealth } from "@/core/api/calls/system";
import { serve } from "../serve";

export const GET = serve(getHealth, () => ({ status: "up" as const }));
