"use client";

import { type ReactNode, useRef } from "react";
import type { ReadingResult } from "@/core/reading/result";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
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
  return (
    <section ref={section} className="plate min-w-0 px-3 pt-2 pb-1">
      <h2 className="font-bold">{title}</h2>
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
