"use client";

import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { DryRun, Question } from "@/core/draft/dryRun";
import type { Amounts } from "@/core/draft/tallies";
import type { LogRecord } from "@/core/log/model";
import type { Span } from "@/core/span/model";
import { MINUTE } from "@/core/window/lengths";
import { ask } from "../query/api";
import type { FromWorker, ToWorker } from "./draftWorker";

interface Arrivals {
  body: ArrayBuffer;
  seen: number;
  points: number;
  /** How long it took them to come, ms. */
  span: number;
  /** Spans and log records of the same minutes, and how many of them came. */
  spans: { seen: number; records: Span[] };
  records: { seen: number; records: LogRecord[] };
}

export interface Tried {
  dryRun: DryRun | null;
  /** How many points came for each that is in the sample. */
  factor: number;
  /** How long the sample took to come, ms. */
  span: number;
  problem: string | null;
  trying: boolean;
}

const MONTH = 30 * 24 * 60 * MINUTE;

/** What was tried, as it comes in a time, ms. */
function during({ factor, span }: Tried, amount: number, time: number): number {
  return span > 0 ? (amount * factor * time) / span : 0;
}

export function perMinute(tried: Tried, amount: number): number {
  return during(tried, amount, MINUTE);
}

/** Series as they are, and bytes of a month. */
export function monthly(tried: Tried, { series, bytes }: Amounts): { series: number; bytes: number } {
  return { series, bytes: during(tried, bytes, MONTH) };
}

/** Arrivals of the last minutes; read again when asked to. */
export function useArrivals() {
  return useQuery({
    queryKey: ["arrivals"],
    queryFn: async ({ signal }): Promise<Arrivals> => {
      const [response, { traces, logs }] = await Promise.all([
        fetch("/api/pipeline/sample", { signal }),
        ask("GET /api/pipeline/records", {}, signal),
      ]);
      if (!response.ok) throw new Error(`arrivals cannot be read (${response.status})`);
      const number = (name: string) => Number(response.headers.get(name) ?? 0);
      return {
        body: await response.arrayBuffer(),
        seen: number("X-Tin-Seen"),
        points: number("X-Tin-Points"),
        span: number("X-Tin-Span"),
        spans: traces,
        records: logs,
      };
    },
    refetchInterval: ({ state }) => (state.data?.points ? false : 5000),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/**
 * Tries a draft on arrivals in a worker, whenever either changes; the newest question is the one that is answered.
 *
 * @param asking null while it is not known what is live
 */
export function useDryRun(arrivals: Arrivals | undefined, asking: Question | null): Tried {
  const worker = useRef<Worker | null>(null);
  const asked = useRef(0);
  const [answer, setAnswer] = useState<FromWorker | null>(null);
  useEffect(() => {
    const own = new Worker(new URL("./draftWorker.ts", import.meta.url), { type: "module" });
    own.onmessage = ({ data }: MessageEvent<FromWorker>) => {
      if (data.asked === asked.current) setAnswer(data);
    };
    own.onerror = (event) => setAnswer({ asked: asked.current, problem: event.message || "the worker failed" });
    worker.current = own;
    return () => own.terminate();
  }, []);
  useEffect(() => {
    if (!arrivals || !worker.current) return;
    const message: ToWorker = {
      type: "arrivals",
      body: arrivals.body,
      spans: arrivals.spans.records,
      records: arrivals.records.records,
    };
    worker.current.postMessage(message);
  }, [arrivals]);
  const question = JSON.stringify(asking);
  useEffect(() => {
    const wanted = JSON.parse(question) as Question | null;
    if (!arrivals || !worker.current || !wanted) return;
    const message: ToWorker = { type: "draft", asked: ++asked.current, question: wanted };
    // Typing asks often; only where it rests is it worth an answer.
    const timer = setTimeout(() => worker.current?.postMessage(message), 120);
    return () => clearTimeout(timer);
  }, [arrivals, question]);
  const dryRun = answer && "dryRun" in answer ? answer.dryRun : null;
  return {
    dryRun,
    factor: arrivals && arrivals.points > 0 ? arrivals.seen / arrivals.points : 1,
    span: arrivals?.span ?? 0,
    problem: answer && "problem" in answer ? answer.problem : null,
    trying: answer?.asked !== asked.current,
  };
}
