/** By a text that is marked: where pages are not served over TLS, browsers have no other way. */
function copyMarked(text: string): boolean {
  const field = document.createElement("textarea");
  field.value = text;
  field.setAttribute("readonly", "");
  field.style.cssText = "position:fixed;opacity:0";
  // In an open dialog nothing beside it can be marked.
  (document.activeElement?.closest("dialog") ?? document.body).append(field);
  field.select();
  const copied = document.execCommand("copy");
  field.remove();
  return copied;
}

/** Copies a text. @returns whether the browser let us */
export async function copyText(text: string): Promise<boolean> {
  try {
    await navigator.clipboard.writeText(text);
    return true;
  } catch {
    const before = document.activeElement;
    const copied = copyMarked(text);
    if (before instanceof HTMLElement) before.focus();
    return copied;
  }
}
