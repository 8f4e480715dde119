import { Request as OtlpRequest } from "../../src/core/otlp/testing/schema";

/**
 * Senders of a soak: each stands for one instance of a service with counters of both temporalities. A delta point is
 * sent again until it is acknowledged; a cumulative one is overtaken by the next. So in the end the store must count
 * exactly what was counted here.
 */

/** Series of each temporality that a sender has. */
export const SERIES = 100;

interface Export {
  body: Buffer;
  points: number;
}

/** One instance: what it has counted, and what of it is not acknowledged yet. */
export class Sender {
  /** Sum of all delta values and of all cumulative counts so far. */
  counted = { delta: 0, cumulative: 0 };
  private readonly counts = new Array<number>(SERIES).fill(0);
  private before: number;
  private turn = 0;

  constructor(
    private readonly name: string,
    private readonly start: number,
  ) {
    this.before = start;
  }

  /** Counts on and makes an export of it, at a moment after those before. */
  next(now: number): Export {
    this.turn++;
    const time = Math.max(now, this.before + 1);
    const nano = (ms: number) => `${ms}000000`;
    const attributes = (i: number) => [{ key: "lane", value: { stringValue: String(i) } }];
    const delta = this.counts.map((_, i) => {
      const more = (this.turn * 7 + i) % 13;
      this.counted.delta += more;
      return { asInt: more, timeUnixNano: nano(time), startTimeUnixNano: nano(this.before), attributes: attributes(i) };
    });
    const cumulative = this.counts.map((count, i) => {
      const more = (this.turn + i) % 5;
      this.counted.cumulative += more;
      this.counts[i] = count + more;
      const asInt = this.counts[i];
      return { asInt, timeUnixNano: nano(time), startTimeUnixNano: nano(this.start), attributes: attributes(i) };
    });
    this.before = time;
    const sum = (name: string, aggregationTemporality: number, dataPoints: object[]) => ({
      name,
      unit: "{item}",
      sum: { aggregationTemporality, isMonotonic: true, dataPoints },
    });
    const request = OtlpRequest.fromObject({
      resourceMetrics: [
        {
          resource: { attributes: [{ key: "service.name", value: { stringValue: this.name } }] },
          scopeMetrics: [{ metrics: [sum("soak.delta", 1, delta), sum("soak.cumulative", 2, cumulative)] }],
        },
      ],
    });
    return { body: Buffer.from(OtlpRequest.encode(request).finish()), points: 2 * SERIES };
  }
}

/** Posts a body. @returns the status, 0 where nobody answered in time */
export async function postProtobuf(base: string, body: Buffer): Promise<number> {
  try {
    const response = await fetch(`${base}/v1/metrics`, {
      method: "POST",
      headers: { "Content-Type": "application/x-protobuf" },
      body: new Uint8Array(body),
      signal: AbortSignal.timeout(20_000),
    });
    await response.arrayBuffer();
    return response.status;
  } catch {
    return 0;
  }
}
