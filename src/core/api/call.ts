import { z } from "zod";
import type { Right } from "../access/rights";

/**
 * A call of the API as data. From one declaration follow what its handler is given and has to answer, the client's types,
 * the guard, the OpenAPI document and its page of documentation.
 */

/** An answer or a body that is no JSON. */
export interface Plain {
  plain: string;
}

/** A text of a media type: what an answer or a body holds instead of JSON. */
export function plain(type: string): Plain {
  return { plain: type };
}

export type Method = "GET" | "POST" | "PUT" | "DELETE";

export interface Call<
  P extends z.ZodType = z.ZodType,
  Q extends z.ZodType = z.ZodType,
  B extends z.ZodType | Plain = z.ZodType | Plain,
  A extends z.ZodType | Plain = z.ZodType | Plain,
  M extends Method = Method,
  U extends string = string,
> {
  method: M;
  /** With {name} for each of its parameters. */
  path: U;
  /** In a sentence. */
  does: string;
  right: Right;
  /** Whether it is for people only, whatever a key may. */
  peopleOnly: boolean;
  /** What stands in the record once it is done, such as "made a key"; null where its handler says so itself, or nothing is to be. */
  did: string | null;
  /** What it was done to, for the record; never a secret. */
  about(given: { params: z.output<P>; query: z.output<Q>; body: Taken<B> }): string;
  /** Whether something is another afterwards. */
  changes: boolean;
  /** Whether its answer counts what is stored: it is kept for a moment, in proportion to what it cost. */
  counts: boolean;
  params: P;
  query: Q;
  body: B;
  answer: A;
  /** Of the answer. */
  status: 200 | 201 | 202;
  /** Statuses of problems beside those of every call (400, 401, 403, 429, 499, 500 and 503), and when they come. */
  problems: Readonly<Record<number, string>>;
  /** A request that works: query and body. */
  example: { query?: Record<string, unknown>; body?: unknown; params?: Record<string, string> };
}

/** Nothing is asked for. */
export const nothing = z.object({});
/** Nothing is to be said: {}. */
export const done = z.object({}).strict();
export const DONE: z.infer<typeof done> = {};

type Named = "method" | "path" | "does" | "answer";

/** Declares a call. Where nothing is said, it takes nothing, answers 200 and changes something unless it is a GET. */
export function call<
  const M extends Method,
  const U extends string,
  A extends z.ZodType | Plain,
  P extends z.ZodType = typeof nothing,
  Q extends z.ZodType = typeof nothing,
  B extends z.ZodType | Plain = typeof nothing,
>(parts: Pick<Call<P, Q, B, A, M, U>, Named> & Partial<Omit<Call<P, Q, B, A, M, U>, Named>>): Call<P, Q, B, A, M, U> {
  const changes = parts.changes ?? parts.method !== "GET";
  return {
    params: nothing as unknown as P,
    query: nothing as unknown as Q,
    body: nothing as unknown as B,
    status: 200,
    problems: {},
    example: {},
    counts: false,
    right: changes ? "edit" : "see",
    peopleOnly: false,
    did: null,
    about: () => "",
    ...parts,
    changes,
  };
}

export function isPlain(one: z.ZodType | Plain): one is Plain {
  return "plain" in one;
}

/** What a caller gives and gets. */
export type Given<T> = T extends z.ZodType ? z.input<T> : string;
export type Taken<T> = T extends z.ZodType ? z.output<T> : string;
