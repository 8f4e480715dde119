/**
 * Every page, a line each: from it follow the ladder of the navigation, the figure that goes there, the palette and the
 * title of the browser's tab. What a page asks first, if anything, stands in app/first/pages.
 */

/** `rung`: stands in the navigation; `found`: the palette finds it, because it needs nothing in its address. */
interface PageLine {
  path: string;
  title: string;
  rung?: true;
  found: boolean;
}

/** Rungs in the order in which the work is done, each followed by the pages below it. */
export const PAGES = [
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
  { path: "/store", title: "Store", rung: true, found: true },
] as const satisfies readonly PageLine[];

export type PagePath = (typeof PAGES)[number]["path"];

/** The rungs of the navigation: a figure goes to each. */
export const RUNGS: readonly PageLine[] = (PAGES as readonly PageLine[]).filter(({ rung }) => rung);

/** For the head of a page's document. */
export function headOf(path: PagePath): { title: string } {
  return { title: PAGES.find((page) => page.path === path)!.title };
}
