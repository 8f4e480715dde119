/**
 * Every page, a line each: from it follow the ladder of the navigation, the figure that goes there, the palette and the
 * title of the browser's tab. What a page asks first, if anything, stands in app/first/pages.
 */

/**
 * `rung`: stands in the navigation; `found`: the palette finds it, because it needs nothing in its address; `entry`: it
 * is for who is not signed in, and stands by itself.
 */
interface PageLine {
  path: string;
  title: string;
  rung?: true;
  found: boolean;
  entry?: true;
}

/** Rungs in the order in which the work is done, each followed by the pages below it. */
export const PAGES = [
  { path: "/", title: "Home", found: true },
  { path: "/services", title: "Services", rung: true, found: true },
  { path: "/services/one", title: "A service", found: false },
  { path: "/services/add", title: "Add a source", found: true },
  { path: "/services/targets", title: "Targets", found: true },
  { path: "/services/senders", title: "Senders", found: true },
  { path: "/instruments", title: "Instruments", rung: true, found: true },
  { path: "/instruments/one", title: "An instrument", found: false },
  { path: "/instruments/define", title: "Define an instrument", found: true },
  { path: "/pipeline", title: "Pipeline", rung: true, found: true },
  { path: "/scratch", title: "Scratch", rung: true, found: true },
  { path: "/releases", title: "Releases", rung: true, found: true },
  { path: "/releases/two", title: "Two releases", found: true },
  { path: "/sheets", title: "Sheets", rung: true, found: true },
  { path: "/sheets/one", title: "A sheet", found: false },
  { path: "/sheets/ready", title: "A ready sheet", found: false },
  { path: "/store", title: "Store", rung: true, found: true },
  { path: "/settings", title: "Your account", found: true },
  { path: "/settings/people", title: "People", found: true },
  { path: "/settings/keys", title: "Keys", found: true },
  { path: "/settings/record", title: "Record", found: true },
  { path: "/settings/mail", title: "Mail", found: true },
  { path: "/sign-in", title: "Sign in", found: false, entry: true },
  { path: "/reset", title: "A new password", found: false, entry: true },
  { path: "/invitation", title: "An invitation", found: false, entry: true },
  { path: "/first-owner", title: "The first owner", found: false, entry: true },
  { path: "/shared", title: "A shared sheet", found: false, entry: true },
  { path: "/look", title: "Look around", found: false, entry: true },
] as const satisfies readonly PageLine[];

export type PagePath = (typeof PAGES)[number]["path"];

/** The rungs of the navigation: a figure goes to each. */
export const RUNGS: readonly PageLine[] = (PAGES as readonly PageLine[]).filter(({ rung }) => rung);

/** Whether a page is for who is not signed in. */
export function isEntry(path: string): boolean {
  return (PAGES as readonly PageLine[]).some((page) => page.path === path && page.entry);
}

/** For the head of a page's document. */
export function headOf(path: PagePath): { title: string } {
  return { title: PAGES.find((page) => page.path === path)!.title };
}
