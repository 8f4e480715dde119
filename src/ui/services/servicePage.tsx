"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Section } from "@/core/service/sections";
import { DEFAULT_SLOW, type Work, written } from "@/core/service/work";
import { ReadingPlate } from "../chart/plate";
import { HoverScope } from "../chart/pointing/hover";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useMay } from "../query/me";
import { useServiceSections, useSlow } from "../query/services";
import { useService } from "../query/use";
import { ServiceSlot } from "../sentence/serviceSlot";
import { Slot } from "../sentence/slot";

const CHOICES = [0.01, 0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30];

/** Seconds from what a person types: "250 ms", "2s", "0.5". */
function secondsOf(text: string): number | null {
  const match = /^(\d+(?:\.\d+)?)\s*(ms|s|min)?$/.exec(text.trim());
  if (!match) return null;
  const factor = match[2] === "ms" ? 1e-3 : match[2] === "min" ? 60 : 1;
  const seconds = Number(match[1]) * factor;
  return seconds > 0 && seconds <= 86_400 ? seconds : null;
}

/** From when on work of a kind is slow, changed in place. */
function SlowSlot({ work, slow }: { work: Work; slow: number }) {
  const client = useQueryClient();
  const mayEdit = useMay("edit");
  const [problem, setProblem] = useState<unknown>(null);
  const choose = async (text: string) => {
    const seconds = secondsOf(text);
    if (seconds === null) return;
    try {
      await ask("PUT /api/slow", { body: { [work]: seconds } });
      setProblem(null);
      await client.invalidateQueries({ queryKey: ["slow"] });
      await client.invalidateQueries({ queryKey: ["service sections"] });
    } catch (error) {
      setProblem(error);
    }
  };
  if (!mayEdit) return <span className="text-muted">slow from {written(slow)} on</span>;
  return (
    <span className="text-muted">
      slow from{" "}
      <Slot
        name="bound for slow"
        options={CHOICES.map((value) => ({ value: written(value) }))}
        onChoose={(text) => void choose(text)}
        accept={(text) => (secondsOf(text) === null ? "a time such as 250 ms or 2 s" : null)}
        placeholder="250 ms, 2 s…"
      >
        {written(slow)}
      </Slot>{" "}
      on
      {problem !== null && <ProblemNote error={problem} />}
    </span>
  );
}

function SectionPlates({
  section,
  slow,
  whole,
}: {
  section: Section;
  slow: Record<Work, number>;
  /** The address of its ready sheet; null where it has none. */
  whole: string | null;
}) {
  return (
    <section aria-label={section.title} className="mt-4">
      <h2 className="mb-1.5 flex items-baseline gap-3 text-[17px] font-bold">
        {section.title}
        {section.work && (
          <span className="text-[13.5px] font-normal">
            <SlowSlot work={section.work} slow={slow[section.work]} />
          </span>
        )}
        {whole && (
          <Link className="slot ml-auto text-[13.5px] font-normal" href={whole} title="with more ways to look at it">
            as a sheet<span className="sr-only"> of {section.title}</span>
          </Link>
        )}
      </h2>
      <div className="grid grid-cols-1 gap-3 md:grid-cols-2 xl:grid-cols-3">
        {section.plates.map(({ title, reading }) => (
          <ReadingPlate key={reading} title={title} text={reading} height={150} />
        ))}
      </div>
    </section>
  );
}

/** What is always worth seeing of one service, with no set-up. */
export function ServicePage() {
  const place = useService();
  const carried = useCarried();
  const { data, error } = useServiceSections(place);
  const slow = useSlow().data ?? DEFAULT_SLOW;
  return (
    <HoverScope>
      <header className="flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-[24px] leading-none font-bold wrap-anywhere">
          {place ? <ServiceSlot /> : <span className="skeleton-bar inline-block h-6 w-32" />}
        </h1>
        {place && data && (
          <p className="text-muted">
            {place.environment && (
              <>
                in <b>{place.environment}</b>,{" "}
              </>
            )}
            {data.metrics} {data.metrics === 1 ? "metric" : "metrics"}
          </p>
        )}
        <p className="ml-auto flex gap-x-4">
          <Link className="slot" href={`/services${carried}`}>
            all services
          </Link>
          <Link className="slot" href={`/releases${carried}`}>
            its releases
          </Link>
        </p>
      </header>
      {error && !data && <ProblemNote error={error} />}
      {data?.metrics === 0 && (
        <div className="plate mt-3 p-4">
          <h2 className="font-bold">Nothing has arrived from this service</h2>
          <p className="mt-1 text-muted">Choose another above, or add it as a source.</p>
        </div>
      )}
      {data?.sections.map((section) => (
        <SectionPlates
          key={section.title}
          section={section}
          slow={slow}
          whole={section.ready && `/sheets/ready${carried}${carried ? "&" : "?"}ready=${section.ready}`}
        />
      ))}
    </HoverScope>
  );
}
