import type { z } from "zod";
import { missingPart, unknownPart } from "@/core/file/unknownPart";
import { FileError, readFileOf } from "@/engine/files";
import { badRequest, problem } from "./answer";

/** What of a file is wanted. */
export interface Wanted<T> {
  schema: z.ZodType<T>;
  /** Parts without which it is another file. */
  parts: readonly string[];
  maxBytes: number;
}

/** What a file from a person says, or the answer that says what is wrong with it. */
export async function uploadedFile<T>(
  request: Request,
  { schema, parts, maxBytes }: Wanted<T>,
): Promise<{ data: T } | { refused: Response }> {
  const text = await request.text();
  if (text.length > maxBytes)
    return {
      refused: problem(413, { title: "Too large", detail: `the file has more than ${maxBytes / 1024 / 1024} MiB` }),
    };
  const refuse = (detail: string) => ({ refused: problem(400, { title: "The file is not understood", detail }) });
  let content: unknown;
  try {
    content = await readFileOf(text);
  } catch (error) {
    if (error instanceof FileError) return refuse(error.message);
    throw error;
  }
  const missing = missingPart(content, parts);
  if (missing !== null)
    return refuse(
      `it has no part "${missing}"; a whole file has ${parts.join(", ")}, as the file that is written out has`,
    );
  const parsed = schema.safeParse(content);
  if (!parsed.success) return { refused: badRequest(parsed.error) };
  const unknown = unknownPart(content, parsed.data);
  if (unknown !== null) return refuse(`"${unknown}" means nothing here; is it misspelt?`);
  return { data: parsed.data };
}
