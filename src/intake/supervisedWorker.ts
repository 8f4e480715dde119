import { Worker } from "node:worker_threads";

const AGAIN_AFTER = 5000;
/** What a thread may hold; one that wants more ends, and another takes its place. MiB */
const MAX_HEAP_MB = 512;

/** Of that for what is new, MiB; V8 would take 48 for each thread and keep it. */
const MAX_YOUNG_MB = 12;

/** A thread of this process that another takes the place of where it fails. */
export class SupervisedWorker<In, Out> {
  private worker: Worker | null = null;
  private stopping = false;

  /**
   * @param file beside the running program
   * @param heard told what it says
   */
  constructor(
    private readonly file: string,
    private readonly heard: (message: Out) => void,
    private readonly report: (error: unknown) => void,
  ) {}

  start(): void {
    const worker = new Worker(new URL(this.file, import.meta.url), {
      resourceLimits: { maxOldGenerationSizeMb: MAX_HEAP_MB, maxYoungGenerationSizeMb: MAX_YOUNG_MB },
    });
    this.worker = worker;
    worker.on("message", this.heard);
    worker.on("error", this.report);
    worker.on("exit", () => {
      this.worker = null;
      if (!this.stopping) setTimeout(() => this.start(), AGAIN_AFTER);
    });
  }

  /** @returns whether there is a thread to hear it */
  say(message: In): boolean {
    this.worker?.postMessage(message);
    return this.worker !== null;
  }

  async stop(): Promise<void> {
    this.stopping = true;
    await this.worker?.terminate();
  }
}
