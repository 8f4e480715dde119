import { useLayoutEffect } from "react";

/** Sets a field as a person does, so that React sees the change: first back to what the document had, then anew. */
function typeAgain(field: HTMLInputElement | HTMLTextAreaElement): void {
  const typed = field.value;
  field.value = field.defaultValue;
  const { set } = Object.getOwnPropertyDescriptor(Object.getPrototypeOf(field), "value") ?? {};
  // The field's own setter, which React watches, would tell it that this is what it had set itself.
  set?.call(field, typed);
  field.dispatchEvent(new Event("input", { bubbles: true }));
}

/**
 * Tells the page what was typed, or kept by the browser over a reload, before it had come alive: React takes a document
 * over as it finds it, and forgets at its next rendering what it was not told of.
 */
export function useTypedBefore(): void {
  useLayoutEffect(() => {
    for (const field of document.querySelectorAll<HTMLInputElement | HTMLTextAreaElement>("input, textarea")) {
      if (field instanceof HTMLInputElement && (field.type === "checkbox" || field.type === "radio")) {
        if (field.checked === field.defaultChecked) continue;
        field.checked = field.defaultChecked;
        field.click();
      } else if (field.value !== field.defaultValue && field.type !== "file") typeAgain(field);
    }
  }, []);
}
