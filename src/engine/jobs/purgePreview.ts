import type { PurgeCount, PurgeRequest } from "@/core/api/purge";
import { previewPurge } from "@/store/strips/purge";
import type { Surroundings } from "../surroundings";

/** What a purge would delete. */
export interface PurgePreviewJob {
  type: "purge preview";
  metric: string;
  request: PurgeRequest;
}

export function answerPurgePreview({ client, stillWanted }: Surroundings, job: PurgePreviewJob): Promise<PurgeCount> {
  return previewPurge(client, job.request, stillWanted);
}
