"use client";

import { type ReactNode, useRef } from "react";
import type { ReadingResult } from "@/core/reading/result";
import { useHand } from "../frame/inHand";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { useSpanWhileSeen } from "../query/seen";
import { useMarksOf, useReading } from "../query/use";
import { Lines } from "./lines";
import { ChartSkeleton } from "./skeleton";

/** What is worth knowing about how an answer came about, and why it may be empty. */
export function Warnings({ result }: { result: ReadingResult }) {
  if (result.warnings.length === 0) return null;
  return (
    <ul className="mt-1 text-[12.5px] text-warning">
      {result.warnings.map(({ code, message }) => (
        <li key={code + message}>◆ {message}</li>
      ))}
    </ul>
  );
}

/** A plate that answers one reading as lines. */
export function ReadingPlate({ title, text, height = 190 }: { title: ReactNode; text: string; height?: number }) {
  const section = useRef<HTMLElement>(null);
  const span = useSpanWhileSeen(section);
  const carried = useCarried();
  const { data, error, isPlaceholderData } = useReading(text, span);
  const marks = useMarksOf(data);
  const { held, keep } = useHand();
  const own = { text, title: typeof title === "string" ? title : "" };
  const take = () => {
    held.current = own;
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: it only notes what is in hand
    <section ref={section} className="group/plate plate min-w-0 px-3 pt-2 pb-1" onPointerEnter={take} onFocus={take}>
      <h2 className="flex items-baseline justify-between gap-3 font-bold">
        {title}
        <OnlyWith right="edit">
          <button
            type="button"
            className="slot mr-20 text-[12px] opacity-0 group-hover/plate:opacity-100 focus:opacity-100"
            onClick={() => keep(own)}
          >
            keep
          </button>
        </OnlyWith>
      </h2>
      <p className="num truncate text-[11.5px] text-muted" title={text}>
        <Link
          href={`/scratch${carried ? `${carried}&` : "?"}reading=${encodeURIComponent(text)}`}
          className="underline decoration-dotted underline-offset-2 hover:text-primary"
        >
          {data?.reading ?? text}
        </Link>
      </p>
      {data && span ? (
        <div className={isPlaceholderData ? "opacity-70" : ""}>
          {data.series.length > 0 ? (
            <Lines result={data} marks={marks} height={height} />
          ) : (
            <p className="flex items-center justify-center text-muted" style={{ height }}>
              Nothing to draw in this window
            </p>
          )}
          <Warnings result={data} />
        </div>
      ) : error ? (
        <ProblemNote error={error} text={text} />
      ) : (
        <ChartSkeleton height={height} />
      )}
    </section>
  );
}
