import { stringify } from "yaml";
import type { z } from "zod";
import { missingPart, unknownPart } from "@/core/file/unknownPart";
import type { AttributeValue } from "@/core/metric/model";
import { isStorableValue } from "@/core/otlp/limits";
import { FileError, readFileOf } from "@/engine/files";
import { wrongIn } from "./answer";
import { Refusal } from "./serve";

/** What of a file is wanted. */
export interface Wanted<T> {
  schema: z.ZodType<T>;
  /** Parts without which it is another file. */
  parts: readonly string[];
  maxBytes: number;
}

const refused = (detail: string) => new Refusal(400, { title: "The file is not understood", detail });

/** What a file from a person says. @throws Refusal with what is wrong with it */
export async function uploadedFile<T>(text: string, { schema, parts, maxBytes }: Wanted<T>): Promise<T> {
  if (text.length > maxBytes)
    throw new Refusal(413, { title: "Too large", detail: `the file has more than ${maxBytes / 1024 / 1024} MiB` });
  let content: unknown;
  try {
    content = await readFileOf(text);
  } catch (error) {
    if (error instanceof FileError) throw refused(error.message);
    throw error;
  }
  if (!isStorableValue((content ?? "") as AttributeValue))
    throw refused("it has characters that are no text (NUL or a broken pair)");
  const missing = missingPart(content, parts);
  if (missing !== null)
    throw refused(
      `it has no part "${missing}"; a whole file has ${parts.join(", ")}, as the file that is written out has`,
    );
  const parsed = schema.safeParse(content);
  if (!parsed.success) throw new Refusal(400, wrongIn(parsed.error));
  const unknown = unknownPart(content, parsed.data);
  if (unknown !== null) throw refused(`"${unknown}" means nothing here; is it misspelt?`);
  return parsed.data;
}

/** A file that is written out, to be kept under a name. */
export function fileResponse(content: unknown, format: "yaml" | "json", name: string): Response {
  const text = format === "json" ? `${JSON.stringify(content, null, 2)}\n` : stringify(content, { lineWidth: 0 });
  return new Response(text, {
    headers: {
      "Content-Type": `application/${format}`,
      "Content-Disposition": `attachment; filename="${name}.${format}"`,
    },
  });
}
