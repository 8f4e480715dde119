import { deleteSetAside } from "@/core/api/calls/store";
import { deleteSetAside as deleteAll } from "@/store/pipeline/setAside";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const DELETE = serve(deleteSetAside, async () => ({ deleted: await deleteAll(database()) }));
