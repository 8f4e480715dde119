import pino from "pino";
import { Dictionary } from "@/core/otlp/dictionary";
import { Overflow } from "@/core/otlp/overflow";
import { setting } from "@/core/settings/environment";
import { Committer } from "@/store/commit";
import { connect } from "@/store/database/connect";
import { isContentError } from "@/store/database/contentError";
import { HOLDER } from "@/store/jobs/job";
import { repeatJob } from "@/store/jobs/repeatJob";
import { WindowCloser } from "@/store/pipeline/windowCloser";
import { OwnMetrics } from "../ownMetrics";
import { CommitQueue } from "../receive/queue";

/** The intake's fourth thread: closes the windows of the pipeline's steps. */

const log = pino({ name: "pipeline", level: setting("LOG_LEVEL") });
const pool = connect({ max: 6 });
const overflow = new Overflow(new Dictionary(), Date.now(), `pipeline ${HOLDER}`);
const committer = new Committer(pool, { series: setting("TIN_SERIES_LIMIT"), overflow });
const closer = new WindowCloser(pool, committer);
const queue = new CommitQueue(
  (batches) => committer.commit(batches),
  isContentError,
  (error) => log.warn(error, "some of what came cannot be stored"),
);
const own = new OwnMetrics(new Dictionary(), queue, `pipeline ${HOLDER}`, () => closer.counts(), false);

own.start();
void repeatJob({ pool, log, stopped: () => false }, closer.job);
