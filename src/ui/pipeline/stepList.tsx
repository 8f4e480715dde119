"use client";

import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import type { Signal } from "@/core/otlp/signals";
import type { StepEffect } from "@/core/pipeline/effect";
import { count } from "../store/amounts";
import { StepSentence } from "./stepSentence";
import { type AnyStep, SIGNAL_WORDS, STEP_WORDS } from "./words";

/** A second, as it runs: what goes in and comes out, levels that come too late, and what a step cannot work with. */
export interface LiveRate {
  in: number;
  out: number;
  late: number;
  refused: number;
}

/** Steps in their order, which is what they mean: dragged, moved by keys, switched off, taken out. */

interface Row {
  signal: Signal;
  step: AnyStep;
  place: number;
  problem: string | undefined;
  effect: StepEffect | undefined;
  /** Points, spans or records a second in and out, as it runs. */
  live: LiveRate | undefined;
}

interface Changes {
  onChange: (place: number, part: object) => void;
  onRemove: (place: number) => void;
}

function flow(before: number, after: number): string {
  return before === after ? count(before) : `${count(before)} → ${count(after)}`;
}

function Rates({ signal, live, effect }: Pick<Row, "signal" | "live" | "effect">) {
  const { many } = SIGNAL_WORDS[signal];
  return (
    <div className="num w-48 shrink-0 text-right text-[12px] text-muted">
      {live && (
        <div>
          now {live.in.toFixed(1)} → {live.out.toFixed(1)} {many}/s
          {live.late > 0 && <div className="text-warning">▲ {live.late.toFixed(2)}/s too late</div>}
          {live.refused > 0 && <div className="text-error">▼ {live.refused.toFixed(2)}/s refused</div>}
        </div>
      )}
      {effect && (
        <>
          {effect.in.series !== null && <div>{flow(effect.in.series, effect.out.series ?? 0)} series</div>}
          <div>
            {flow(effect.in.points, effect.out.points)} {many} tried
          </div>
        </>
      )}
    </div>
  );
}

function StepRow({ signal, step, place, problem, effect, live, onChange, onRemove }: Row & Changes) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: step.id,
  });
  const name = STEP_WORDS[step.type].name;
  const style = { transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined, transition };
  return (
    <li
      ref={setNodeRef}
      style={style}
      className={`plate mb-2 flex gap-3 px-3 py-2 ${isDragging ? "relative z-20 shadow-lg" : ""} ${step.on ? "" : "opacity-60"}`}
    >
      <button
        ref={setActivatorNodeRef}
        type="button"
        className="num w-7 shrink-0 cursor-grab self-start border-r border-base-300 pr-2 text-left text-muted"
        aria-label={`move step ${place + 1}, ${name}: space, then up and down`}
        {...attributes}
        {...listeners}
      >
        {place + 1}
      </button>
      <div className="min-w-0 flex-1">
        <StepSentence step={step} onChange={(part) => onChange(place, part)} />
        {(problem ?? effect?.problem) && (
          <p role="alert" className="text-[13px] text-error">
            ▼ {problem ?? effect?.problem}
          </p>
        )}
        <p className="flex gap-3 text-[12.5px]">
          <button type="button" className="slot" onClick={() => onChange(place, { on: !step.on })}>
            {step.on ? "switch off" : "switch on"}
          </button>
          <button
            type="button"
            className="slot"
            aria-label={`take step ${place + 1} out`}
            onClick={() => onRemove(place)}
          >
            take out
          </button>
        </p>
      </div>
      <Rates signal={signal} live={live} effect={step.on ? effect : undefined} />
    </li>
  );
}

export function StepList({
  signal,
  steps,
  problems,
  effects,
  live,
  onSteps,
}: {
  signal: Signal;
  steps: readonly AnyStep[];
  problems: ReadonlyMap<string, string>;
  effects: ReadonlyMap<string, StepEffect>;
  live: ReadonlyMap<string, LiveRate>;
  onSteps: (steps: AnyStep[]) => void;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const moved = ({ active, over }: DragEndEvent) => {
    const from = steps.findIndex(({ id }) => id === active.id);
    const to = steps.findIndex(({ id }) => id === over?.id);
    if (from >= 0 && to >= 0 && from !== to) onSteps(arrayMove([...steps], from, to));
  };
  return (
    <DndContext id={`lane-${signal}`} sensors={sensors} collisionDetection={closestCenter} onDragEnd={moved}>
      <SortableContext items={steps.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
        <ol aria-label={`Steps of the lane for ${signal}`}>
          {steps.map((step, place) => (
            <StepRow
              key={step.id}
              signal={signal}
              step={step}
              place={place}
              problem={problems.get(step.id)}
              effect={effects.get(step.id)}
              live={live.get(step.id)}
              onChange={(at, part) =>
                onSteps(steps.map((one, i) => (i === at ? ({ ...one, ...part } as AnyStep) : one)))
              }
              onRemove={(at) => onSteps(steps.filter((_, i) => i !== at))}
            />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}
