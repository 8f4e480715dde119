/** What was done on a document before its page was alive. */
export interface KeptDoings {
  /** Clicks on buttons, and forms that were sent; in their order. */
  events: Event[];
  /** Ends it: from then on the page hears for itself. */
  end: () => void;
}

declare global {
  interface Window {
    tinKeptDoings?: KeptDoings;
  }
}

/** A form is kept from being sent as browsers do by themselves: with all its fields in the page's address. */
const SCRIPT = `{
  const events = [];
  const keepClick = (event) => event.target.closest?.('button[type="button"]') && events.push(event);
  const keepSubmit = (event) => {
    event.preventDefault();
    events.push(event);
  };
  document.addEventListener("click", keepClick, true);
  document.addEventListener("submit", keepSubmit, true);
  const end = () => {
    document.removeEventListener("click", keepClick, true);
    document.removeEventListener("submit", keepSubmit, true);
  };
  window.tinKeptDoings = { events, end };
}`;

/**
 * Keeps which buttons are clicked and which forms are sent before the page has come alive. It stands before them in the
 * document.
 *
 * @param nonce what scripts that stand in the document have to bear
 */
export function KeepDoings({ nonce }: { nonce: string | undefined }) {
  return <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: SCRIPT }} />;
}
