/** Hands the reader a file. */
export function saveFile(name: string, content: Blob | string, type = "text/plain"): void {
  const blob = typeof content === "string" ? new Blob([content], { type }) : content;
  const url = URL.createObjectURL(blob);
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  // The browser has begun by then.
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
