/** Where the document keeps clicks until the page is alive. */
export interface KeptClicks {
  events: MouseEvent[];
  /** Ends it: from then on the page hears for itself. */
  end: () => void;
}

declare global {
  interface Window {
    tinKeptClicks?: KeptClicks;
  }
}

/** Buttons that do nothing without the page's code; what sends a form waits by itself. */
const SCRIPT = `{
  const events = [];
  const keep = (event) => event.target.closest?.('button[type="button"]') && events.push(event);
  document.addEventListener("click", keep, true);
  window.tinKeptClicks = { events, end: () => document.removeEventListener("click", keep, true) };
}`;

/**
 * Keeps which buttons are clicked before the page has come alive. It stands before them in the document.
 *
 * @param nonce what scripts that stand in the document have to bear
 */
export function KeepClicks({ nonce }: { nonce: string | undefined }) {
  return <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: SCRIPT }} />;
}
