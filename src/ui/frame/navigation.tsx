"use client";

import { useQueryClient } from "@tanstack/react-query";
import { usePathname, useSearchParams } from "next/navigation";
import { useTheme } from "next-themes";
import { useEffect, useState } from "react";
import { someWait } from "../chart/turn";
import { useMe } from "../query/me";
import { useOverview } from "../query/use";
import Link from "./link";
import { RUNGS } from "./pages";

/** The parts of the address that go along from page to page. */
export function useCarried(): string {
  const parameters = useSearchParams();
  const carried = new URLSearchParams();
  for (const key of ["last", "from", "to", "service", "environment"]) {
    const value = parameters.get(key);
    if (value !== null) carried.set(key, value);
  }
  const text = carried.toString();
  return text === "" ? "" : `?${text}`;
}

function ThemeSwitch() {
  const { resolvedTheme, setTheme } = useTheme();
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);
  const dark = ready && (resolvedTheme === "soot" || resolvedTheme === "dark");
  return (
    <button
      type="button"
      className="text-muted hover:text-base-content"
      onClick={() => setTheme(dark ? "tin" : "soot")}
    >
      {dark ? "Lighter: tin" : "Darker: soot"}
    </button>
  );
}

/** How often it is looked whether the page is drawn, and from when on it counts as if it were, ms. */
const LOOK = 800;
const AT_LAST = 10_000;

/** Whether the page has its answers and is drawn: until then, what others need would only stand in its way. */
function useLater(): boolean {
  const [later, setLater] = useState(false);
  const client = useQueryClient();
  useEffect(() => {
    const began = Date.now();
    const timer = setInterval(() => {
      if ((client.isFetching() > 0 || someWait()) && Date.now() - began < AT_LAST) return;
      clearInterval(timer);
      setLater(true);
    }, LOOK);
    return () => clearInterval(timer);
  }, [client]);
  return later;
}

/** Whose page this is, and the way to their settings. */
function Account({ here }: { here: boolean }) {
  const { data } = useMe();
  if (!data || data.kind === "nobody") return null;
  return (
    <Link
      href="/settings"
      aria-current={here ? "page" : undefined}
      className={`max-w-full ${here ? "font-semibold text-primary" : "hover:text-base-content"}`}
    >
      <span className="block truncate font-semibold">{data.name}</span>
      <span className="text-muted">{data.role} · settings</span>
    </Link>
  );
}

/** The ladder on the left: two rails, a rung per section. */
export function Navigation({ onKeys }: { onKeys: () => void }) {
  const path = usePathname();
  const carried = useCarried();
  const { data } = useOverview();
  const later = useLater();
  const heard = data?.services.length ?? 0;
  return (
    <div
      data-frame="navigation"
      className="flex w-[172px] shrink-0 flex-col bg-[linear-gradient(90deg,color-mix(in_srgb,var(--color-base-300)_22%,var(--color-base-200)),var(--color-base-200))] px-6 pt-5"
    >
      <Link href={`/${carried}`} className="text-[19px] font-bold leading-tight" style={{ fontStretch: "80%" }}>
        Tin Ladder
      </Link>
      <p className="mb-4 text-[11.5px] text-muted">
        {heard === 0 ? "waiting for a first point" : `${heard} ${heard === 1 ? "service" : "services"} heard`}
      </p>
      <nav
        aria-label="Sections"
        className="relative flex-1 border-x-[3px] border-double border-[color-mix(in_srgb,var(--color-secondary)_55%,var(--color-base-300))]"
      >
        <ul>
          {RUNGS.map(({ title, path: to }, i) => {
            const here = path.startsWith(to);
            return (
              <li key={to}>
                <Link
                  href={`${to}${carried}`}
                  prefetch={later}
                  aria-current={here ? "page" : undefined}
                  className={`flex items-center justify-between border-b-[3px] px-2.5 py-2.5 font-semibold ${
                    here
                      ? "border-primary bg-base-100 text-primary"
                      : "border-[color-mix(in_srgb,var(--color-secondary)_40%,var(--color-base-300))] hover:bg-base-100/60"
                  }`}
                >
                  {title}
                  <span className="num text-[11px] font-normal text-muted">{i + 1}</span>
                </Link>
              </li>
            );
          })}
        </ul>
      </nav>
      <div className="flex flex-col items-start gap-1 py-3 text-[12px]">
        <Account here={path.startsWith("/settings")} />
        <ThemeSwitch />
        <button type="button" className="text-muted hover:text-base-content" onClick={onKeys}>
          Keys: ?
        </button>
      </div>
    </div>
  );
}
