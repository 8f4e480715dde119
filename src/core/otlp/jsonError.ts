/** A request body that is JSON but no OTLP request, or no JSON. */
export class JsonError extends Error {
  override name = "JsonError";
}
