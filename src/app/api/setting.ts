import type { z } from "zod";
import { DONE } from "@/core/api/call";
import { changeFields, readSetting } from "@/store/database/settings";
import { database } from "./database";

/** Settings that are one object of several fields each: given as usual where nothing was said, changed field by field. */

export interface Setting<Shape extends z.ZodRawShape> {
  name: string;
  schema: z.ZodObject<Shape>;
  usual: z.infer<z.ZodObject<Shape>>;
}

/** What a setting says. */
export async function settingOf<Shape extends z.ZodRawShape>({
  name,
  schema,
  usual,
}: Setting<Shape>): Promise<z.infer<z.ZodObject<Shape>>> {
  const found = schema.partial().safeParse(await readSetting(database(), name));
  return found.success ? { ...usual, ...found.data } : usual;
}

/** Changes some fields of a setting. */
export async function changeSetting<Shape extends z.ZodRawShape>(
  { name }: Setting<Shape>,
  fields: object,
): Promise<typeof DONE> {
  await changeFields(database(), name, fields);
  return DONE;
}
