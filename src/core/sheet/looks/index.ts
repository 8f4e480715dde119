import { z } from "zod";
import { bars } from "./bars";
import type { LookKind } from "./definition";
import { distribution } from "./distribution";
import { heat } from "./heat";
import { lines } from "./lines";
import { number } from "./number";
import { shares } from "./shares";
import { stacked } from "./stacked";
import { table } from "./table";

/** Every way to look, in the order in which they are offered. A way is one file, and one line here and in the interface. */
export const LOOKS = [lines, stacked, bars, heat, distribution, table, number, shares] as const;

type Each = (typeof LOOKS)[number];
export type LookName = Each["as"];

type SchemaOf<K> = K extends LookKind<infer T, infer S> ? z.ZodObject<S & { as: z.ZodLiteral<T> }> : never;
type Settings<K> = K extends unknown ? z.output<SchemaOf<K>> : never;
type Given<K> = K extends unknown ? z.input<SchemaOf<K>> : never;

export type Look = Settings<Each>;
export type LookAs<T extends LookName> = Extract<Look, { as: T }>;

const schemas = LOOKS.map(({ as, settings }) => z.object({ as: z.literal(as), ...settings }));

export const look = z.discriminatedUnion("as", schemas as unknown as [SchemaOf<typeof lines>]) as unknown as z.ZodType<
  Look,
  Given<Each>
>;

/** What is known of a way to look. */
export function kindOfLook(as: LookName): LookKind {
  return LOOKS.find((kind) => kind.as === as)!;
}

/** A way to look with its usual settings, which keeps what another one had where it has the same. */
export function lookAs(as: LookName, like: Partial<Record<string, unknown>> = {}): Look {
  const shape = kindOfLook(as).settings;
  const kept = Object.fromEntries(Object.entries(like).filter(([name]) => name in shape));
  const tried = look.safeParse({ ...kept, as });
  return tried.success ? tried.data : look.parse({ as });
}
