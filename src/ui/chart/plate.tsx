"use client";

import Link from "next/link";
import type { ReactNode } from "react";
import type { ReadingResult } from "@/core/reading/result";
import { useCarried } from "../frame/navigation";
import { ProblemNote } from "../frame/problemNote";
import { useSpan } from "../query/place";
import { useMarksOf, useReading } from "../query/use";
import { Lines } from "./lines";

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

/** The place of a chart while its answer is on its way. */
export function ChartSkeleton({ height }: { height: number }) {
  return (
    <div role="status" aria-label="Reading…" className="flex items-end gap-1.5 pl-14" style={{ height }}>
      {[42, 55, 48, 61, 70, 66, 58, 73, 62, 54, 60, 68, 57, 49].map((part, i) => (
        <span key={i} className="skeleton-bar flex-1" style={{ height: `${part}%` }} />
      ))}
    </div>
  );
}

/** A plate that answers one reading as lines. */
export function ReadingPlate({ title, text, height = 190 }: { title: ReactNode; text: string; height?: number }) {
  const span = useSpan();
  const carried = useCarried();
  const { data, error, isPlaceholderData } = useReading(text, span);
  const marks = useMarksOf(data);
  return (
    <section className="plate min-w-0 px-3 pt-2 pb-1">
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
            <Lines
              result={data}
              span={{ from: data.from, to: data.to }}
              marks={marks}
              newestFirst={marks.map(({ release }) => release)}
              height={height}
            />
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
