import { getComparison } from "@/core/api/calls/comparisons";
import { serve } from "../serve";
import { compared } from "./compared";

export const dynamic = "force-dynamic";

export const GET = serve(getComparison, ({ query, asking }) => compared(query, asking));
