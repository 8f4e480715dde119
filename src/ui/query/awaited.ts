"use client";

import { type QueryKey, type UseQueryOptions, type UseQueryResult, useQueries, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { Span } from "@/core/window/window";
import { isRefusal } from "./api";
import { usePlace } from "./place";

/** What was refused is asked again when the window has moved on so far, ms: a metric may have come meanwhile. */
const REFUSED_AGAIN = 30_000;

/**
 * The span to ask about, of one that moves on with the clock. While an answer is on its way the span before stays asked: one
 * that takes longer than the refresh is awaited, and not given up and asked anew for ever. Where somebody chooses another
 * window or subject, that is asked at once.
 *
 * @param subject what is asked about the span
 * @returns the span, and what to tell of its answers: whether some are on their way, and whether all there are were refused
 */
function useAskedSpan(subject: unknown, span: Span | null) {
  const { choice } = usePlace();
  const about = JSON.stringify([subject, choice]);
  const [asked, setAsked] = useState({ about, span });
  const same = asked.about === about;
  const tell = (onTheWay: boolean, refused: boolean) => {
    const moved = !same || asked.span?.from !== span?.from || asked.span?.to !== span?.to;
    const held =
      same &&
      asked.span !== null &&
      (onTheWay || (refused && span !== null && Math.abs(span.to - asked.span.to) < REFUSED_AGAIN));
    if (moved && !held) setAsked({ about, span });
  };
  return { asked: same ? asked.span : span, tell };
}

/**
 * A question about a span that moves on with the clock: see {@link useAskedSpan}.
 *
 * @param question what to ask about a span; null until it is known
 */
export function useSpanQuery<T, S = T>(
  subject: unknown,
  span: Span | null,
  question: (span: Span | null) => UseQueryOptions<T, Error, S>,
): UseQueryResult<S> {
  const { asked, tell } = useAskedSpan(subject, span);
  const query = useQuery(question(asked));
  tell(query.isFetching, isRefusal(query.error));
  return query;
}

/** An answer of several, or why there is none. */
export interface Answered<T> {
  result: T | undefined;
  error: Error | null;
}

/** A question of several: what of an earlier answer stays until its own is there. */
export interface ListedQuestion<T> extends Pick<UseQueryOptions<T>, "enabled" | "refetchInterval"> {
  queryKey: QueryKey;
  queryFn: UseQueryOptions<T>["queryFn"];
  placeholderData: (previous: T | undefined, query?: { queryKey: QueryKey }) => T | undefined;
}

const together = <T>(all: UseQueryResult<T>[]) => ({
  answers: all.map(({ data, error }): Answered<T> => ({ result: data, error })),
  onTheWay: all.some(({ isFetching }) => isFetching),
});

/** Several questions about a span, as {@link useSpanQuery} asks one. */
export function useSpanQueries<T>(
  subject: unknown,
  span: Span | null,
  questions: (span: Span | null) => ListedQuestion<T>[],
): Answered<T>[] {
  const { asked, tell } = useAskedSpan(subject, span);
  const queries = questions(asked);
  const { answers, onTheWay } = useQueries({ queries, combine: together<T> });
  tell(onTheWay, answers.length > 0 && answers.every(({ error }) => isRefusal(error)));
  // The library keeps what was there before for single questions, not for lists of them.
  const kept = useRef<{ queryKey: QueryKey; result: T | undefined }[]>([]);
  const stays = ({ placeholderData }: ListedQuestion<T>, i: number) =>
    [...kept.current.slice(i, i + 1), ...kept.current]
      .map(({ queryKey, result }) => placeholderData(result, { queryKey }))
      .find((one) => one !== undefined);
  const shown = answers.map(({ result, error }, i) => ({
    result: result ?? (error === null ? stays(queries[i], i) : undefined),
    error,
  }));
  kept.current = shown.map(({ result }, i) => ({ queryKey: queries[i].queryKey, result }));
  return shown;
}
