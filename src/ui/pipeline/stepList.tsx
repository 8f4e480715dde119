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
import type { StepDryRun } from "@/core/draft/dryRun";
import type { Signal } from "@/core/otlp/signals";
import { type AnyStep, kindOf } from "@/core/pipeline/steps";
import { type LiveRate, StepRates, TriedValues } from "./stepRates";
import { StepSentence } from "./stepSentence";

/** Steps in their order, which is what they mean: dragged, moved by keys, switched off, taken out. */

interface Row {
  signal: Signal;
  step: AnyStep;
  place: number;
  problem: string | undefined;
  dryRun: StepDryRun | undefined;
  live: LiveRate | undefined;
  /** What was tried, as it comes in a minute; null where that is not known. */
  minute: ((amount: number) => number) | null;
}

interface Changes {
  onChange: (place: number, part: object) => void;
  onRemove: (place: number) => void;
}

function StepRow({ signal, step, place, problem, dryRun, live, minute, onChange, onRemove }: Row & Changes) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: step.id,
  });
  const name = kindOf(step).name;
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
        {step.on && dryRun && <TriedValues values={dryRun.values} />}
        {(problem ?? dryRun?.problem) && (
          <p role="alert" className="text-[13px] text-error">
            ✕ {problem ?? dryRun?.problem}
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
      <StepRates signal={signal} live={live} dryRun={step.on ? dryRun : undefined} minute={minute} />
    </li>
  );
}

export function StepList({
  signal,
  steps,
  problems,
  dryRuns,
  live,
  minute,
  onSteps,
}: {
  signal: Signal;
  steps: readonly AnyStep[];
  problems: ReadonlyMap<string, string>;
  dryRuns: ReadonlyMap<string, StepDryRun>;
  live: ReadonlyMap<string, LiveRate>;
  minute: Row["minute"];
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
              dryRun={dryRuns.get(step.id)}
              live={live.get(step.id)}
              minute={minute}
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
