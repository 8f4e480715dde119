import type { z } from "zod";
import { changeFields, readSetting } from "@/store/settings";
import { answering, badRequest, jsonBody } from "./answer";
import { database } from "./database";

/** Settings that are one object of several fields each: given as usual where nothing was said, changed field by field. */

export interface Setting<Shape extends z.ZodRawShape> {
  name: string;
  schema: z.ZodObject<Shape>;
  usual: z.infer<z.ZodObject<Shape>>;
}

async function saved<Shape extends z.ZodRawShape>({ name, schema }: Setting<Shape>): Promise<object> {
  const found = schema.partial().safeParse(await readSetting(database(), name));
  return found.success ? found.data : {};
}

/** Answers with a setting. */
export function giveSetting<Shape extends z.ZodRawShape>(setting: Setting<Shape>): Promise<Response> {
  return answering(async () => Response.json({ ...setting.usual, ...(await saved(setting)) }));
}

/** Changes the fields that a request's body names. */
export function changeSetting<Shape extends z.ZodRawShape>(
  setting: Setting<Shape>,
  request: Request,
): Promise<Response> {
  return answering(async () => {
    const asked = setting.schema.partial().safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    await changeFields(database(), setting.name, asked.data);
    return Response.json({});
  });
}
