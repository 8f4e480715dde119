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

/** Clicks what was clicked, once the page stands. */
function clickAgain(): void {
  const kept = window.tinKeptClicks;
  if (!kept) return;
  kept.end();
  window.tinKeptClicks = undefined;
  // One that is on its way still, whose page came alive for it, arrives by itself.
  const over = kept.events.filter(({ eventPhase }) => eventPhase === Event.NONE);
  setTimeout(() => {
    for (const { target } of over)
      if (target instanceof Element && target.isConnected) target.closest("button")?.click();
  });
}

/**
 * Tells the page what was typed, or kept by the browser over a reload, and which buttons were clicked before it had come
 * alive: React takes a document over as it finds it, forgets at its next rendering what it was not told of, and hears no
 * click that came before.
 */
export function useDoneBefore(): void {
  useLayoutEffect(() => {
    tellFields();
    clickAgain();
  }, []);
}
