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

/** Fields whose text a person can change. */
const TEXT = "textarea, input:not([type=checkbox], [type=radio], [type=file], [type=button], [type=submit])";

/** Tells the page of all that was typed. */
function tellFields(): void {
  for (const field of document.querySelectorAll<HTMLInputElement | HTMLTextAreaElement>(TEXT))
    if (field.value !== field.defaultValue) typeAgain(field);
}

/** Does again what was done, once the page stands. */
function doAgain(): void {
  const kept = window.tinKeptDoings;
  if (!kept) return;
  kept.end();
  window.tinKeptDoings = undefined;
  // One that is on its way still, whose page came alive for it, arrives by itself.
  const over = kept.events.filter(({ eventPhase }) => eventPhase === Event.NONE);
  // Who pressed twice since nothing happened meant it once.
  const targets = new Set(over.map(({ target }) => target));
  setTimeout(() => {
    for (const target of targets) {
      if (!(target instanceof Element) || !target.isConnected) continue;
      if (target instanceof HTMLFormElement) target.requestSubmit();
      else target.closest("button")?.click();
    }
  });
}

/**
 * Tells the page what was typed, or kept by the browser over a reload, which buttons were clicked and which forms were sent
 * before it had come alive: React takes a document over as it finds it, forgets at its next rendering what it was not told
 * of, and hears nothing that came before.
 */
export function useDoneBefore(): void {
  useLayoutEffect(() => {
    tellFields();
    doAgain();
  }, []);
}
