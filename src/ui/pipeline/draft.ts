"use client";

import { useCallback, useEffect, useState } from "react";
import { z } from "zod";
import { type PipelineConfig, pipelineSchema } from "@/core/pipeline/config";
import { faultText } from "@/core/schema/fault";

/** A draft of the pipeline: kept in this browser until it is published or given up, with a way back for each change. */

interface Kept {
  based: number;
  config: PipelineConfig;
}

const KEY = "tin-ladder pipeline draft";
const MAX_UNDO = 100;

/** The shape that pages rest on; what a step says may be half written. What is of another shape is no draft. */
const part = z.object({ id: z.string(), type: z.string() }).loose();
const keptSchema = z.object({
  based: z.number(),
  config: z.object({
    receivers: z.object({ otlp: z.array(z.string()), scrape: z.boolean() }),
    metrics: z.array(part),
    traces: z.array(part),
    logs: z.array(part),
    exporters: z.array(part),
  }),
});

function stored(): Kept | null {
  try {
    const parsed = keptSchema.safeParse(JSON.parse(localStorage.getItem(KEY) ?? "null"));
    return parsed.success ? (parsed.data as Kept) : null;
  } catch {
    return null;
  }
}

export interface Draft {
  /** null: nothing is drafted. */
  config: PipelineConfig | null;
  /** The version that it was begun from. */
  based: number;
  change: (config: PipelineConfig) => void;
  undo: (() => void) | null;
  giveUp: () => void;
}

export function useDraft(live: { id: number } | undefined): Draft {
  const [kept, setKept] = useState<Kept | null>(null);
  const [before, setBefore] = useState<(Kept | null)[]>([]);
  useEffect(() => {
    setKept(stored());
    // Another tab works on the same draft: what it changes shows here, and is not written over.
    const changed = ({ key }: StorageEvent) => {
      if (key !== KEY) return;
      setKept(stored());
      setBefore([]);
    };
    window.addEventListener("storage", changed);
    return () => window.removeEventListener("storage", changed);
  }, []);
  const keep = useCallback((next: Kept | null) => {
    setKept(next);
    if (next) localStorage.setItem(KEY, JSON.stringify(next));
    else localStorage.removeItem(KEY);
  }, []);
  const change = (config: PipelineConfig) => {
    setBefore([...before, kept].slice(-MAX_UNDO));
    keep({ based: kept?.based ?? live?.id ?? 0, config });
  };
  const undo = () => {
    keep(before[before.length - 1]);
    setBefore(before.slice(0, -1));
  };
  const giveUp = () => {
    setBefore([]);
    keep(null);
  };
  return {
    config: kept?.config ?? null,
    based: kept?.based ?? live?.id ?? 0,
    change,
    undo: before.length > 0 ? undo : null,
    giveUp,
  };
}

/** What is wrong with a pipeline, by the id of the step or exporter. */
export function problemsOf(config: PipelineConfig): Map<string, string> {
  const parsed = pipelineSchema.safeParse(config);
  const found = new Map<string, string>();
  if (parsed.success) return found;
  for (const { path, message } of parsed.error.issues) {
    const part = config[path[0] as "metrics"] as readonly { id: string }[] | undefined;
    const id = part?.[Number(path[1])]?.id ?? "";
    if (!found.has(id)) found.set(id, `${path.slice(2).join(".") || path.join(".")}: ${faultText(message)}`);
  }
  return found;
}
