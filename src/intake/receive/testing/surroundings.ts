import { Absences } from "@/core/otlp/absences";
import { ADMIT_ALL_RECORDS } from "@/core/otlp/admit";
import { ADMIT_ALL } from "@/core/otlp/batch/admission";
import type { Batch } from "@/core/otlp/batch/batch";
import { Dictionary } from "@/core/otlp/dictionary";
import { EMPTY_PIPELINE } from "@/core/pipeline/config";
import { Pipeline } from "@/core/pipeline/pipeline";
import { RequestError } from "../body";
import { Budget } from "../budget";
import { CommitQueue } from "../queue";
import type { ReceiverParts } from "../receive";

/** What a receiver is told of a request that it refused. */
export interface Rejected {
  address: string;
  agent: string;
  request: string;
  status: number;
  reason: string;
}

/** A receiver's surroundings in tests: what it commits is kept at hand, and the database can be taken away. */
export class ReceiverSurroundings {
  committed: Batch[][] = [];
  rejected: Rejected[] = [];
  databaseAway = false;
  private readonly dictionary = new Dictionary();
  private readonly pipeline = new Pipeline(0, EMPTY_PIPELINE, new Dictionary(), 0);

  /** No token is needed; one that is sent names its environment, but for "wrong". The pipeline takes no logs. */
  readonly parts: ReceiverParts = {
    dictionary: this.dictionary,
    absences: new Absences(this.dictionary),
    queue: new CommitQueue(
      async (batches) => {
        if (this.databaseAway) throw new Error("the database is away");
        this.committed.push([...batches]);
      },
      () => false,
    ),
    budget: new Budget(64 * 1024 * 1024),
    lane: {
      receives: (_, signal) => signal !== "logs",
      admit: () => {},
      admitSpans: (spans) => this.pipeline.admitSpans(spans, 0),
      admitLogs: (records) => this.pipeline.admitLogs(records, 0),
    },
    admission: (environment) => ({ ...ADMIT_ALL, environment }),
    recordAdmission: (environment) => ({ ...ADMIT_ALL_RECORDS, environment }),
    environmentOf: async (authorization) => {
      if (authorization === "Bearer wrong") throw new RequestError(401, "the key is not known here", 16);
      return authorization ? authorization.slice(7) : null;
    },
    report: () => {},
    rejected: (address, agent, request, status, reason) =>
      this.rejected.push({ address, agent, request, status, reason }),
  };

  /** As at the beginning. */
  clear(): void {
    this.committed = [];
    this.rejected = [];
    this.databaseAway = false;
  }
}
