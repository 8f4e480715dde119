/** SQLSTATE classes 22 (data) and 23 (integrity): the content was refused; anything else is the store's trouble. */
export function isContentError(error: unknown): boolean {
  return /^2[23]/.test(String((error as { code?: unknown }).code));
}
