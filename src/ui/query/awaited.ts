"use client";

import { type UseQueryOptions, type UseQueryResult, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Span } from "@/core/window/window";
import { isRefusal } from "./api";
import { usePlace } from "./place";

/** What was refused is asked again when the window has moved on so far, ms: a metric may have come meanwhile. */
const REFUSED_AGAIN = 30_000;

/**
 * A question about a span that moves on with the clock. While an answer is on its way the span before stays asked: one
 * that takes longer than the refresh is awaited, and not given up and asked anew for ever. Where somebody chooses another
 * window or subject, that is asked at once.
 *
 * @param subject what the question is about beside the span
 * @param question what to ask about a span; null until it is known
 */
export function useSpanQuery<T, S = T>(
  subject: unknown,
  span: Span | null,
  question: (span: Span | null) => UseQueryOptions<T, Error, S>,
): UseQueryResult<S> {
  const { choice } = usePlace();
  const about = JSON.stringify([subject, choice]);
  const [asked, setAsked] = useState({ about, span });
  const query = useQuery(question(asked.about === about ? asked.span : span));
  const moved = asked.about !== about || asked.span?.from !== span?.from || asked.span?.to !== span?.to;
  const held =
    asked.about === about &&
    asked.span !== null &&
    (query.isFetching ||
      (isRefusal(query.error) && span !== null && Math.abs(span.to - asked.span.to) < REFUSED_AGAIN));
  if (moved && !held) setAsked({ about, span });
  return query;
}
