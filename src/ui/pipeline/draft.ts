"use client";

import { useCallback, useEffect, useState } from "react";
import { type PipelineConfig, pipelineSchema } from "@/core/pipeline/config";
import type { StepConfig } from "@/core/pipeline/metricSteps";

/** A draft of the pipeline: kept in this browser until it is published or given up, with a way back for each change. */

interface Kept {
  based: number;
  steps: StepConfig[];
}

const KEY = "tin-ladder pipeline draft";
const MOST_UNDO = 100;

function stored(): Kept | null {
  try {
    const value = JSON.parse(localStorage.getItem(KEY) ?? "null") as Kept | null;
    return value && Array.isArray(value.steps) ? value : null;
  } catch {
    return null;
  }
}

export interface Draft {
  /** null: nothing is drafted. */
  steps: readonly StepConfig[] | null;
  /** The version that it was begun from. */
  based: number;
  change: (steps: StepConfig[]) => void;
  undo: (() => void) | null;
  giveUp: () => void;
}

export function useDraft(live: { id: number; config: PipelineConfig } | undefined): Draft {
  const [kept, setKept] = useState<Kept | null>(null);
  const [before, setBefore] = useState<(Kept | null)[]>([]);
  useEffect(() => setKept(stored()), []);
  const keep = useCallback((next: Kept | null) => {
    setKept(next);
    if (next) localStorage.setItem(KEY, JSON.stringify(next));
    else localStorage.removeItem(KEY);
  }, []);
  const change = (steps: StepConfig[]) => {
    setBefore([...before, kept].slice(-MOST_UNDO));
    keep({ based: kept?.based ?? live?.id ?? 0, steps });
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
    steps: kept?.steps ?? null,
    based: kept?.based ?? live?.id ?? 0,
    change,
    undo: before.length > 0 ? undo : null,
    giveUp,
  };
}

/** What is wrong with steps, by the id of the step. */
export function problemsOf(steps: readonly StepConfig[]): Map<string, string> {
  const parsed = pipelineSchema.safeParse({ metrics: steps });
  const found = new Map<string, string>();
  if (parsed.success) return found;
  for (const { path, message } of parsed.error.issues) {
    const step = steps[Number(path[1])];
    if (step && !found.has(step.id)) found.set(step.id, `${path.slice(2).join(".")}: ${message}`);
  }
  return found;
}
