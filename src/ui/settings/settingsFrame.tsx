"use client";

import { usePathname } from "next/navigation";
import type { ReactNode } from "react";
import type { Right } from "@/core/access/rights";
import Link from "../frame/link";
import { useMe } from "../query/me";

/** The parts of the settings, and the right that each needs. */
const PARTS: readonly { path: string; title: string; right: Right }[] = [
  { path: "/settings", title: "Your account", right: "see" },
  { path: "/settings/people", title: "People", right: "own" },
  { path: "/settings/keys", title: "Keys", right: "own" },
  { path: "/settings/record", title: "Record", right: "own" },
  { path: "/settings/mail", title: "Mail", right: "own" },
];

/** What stands around a part of the settings: the others, and why this one may not be seen. */
export function SettingsFrame({ children }: { children: ReactNode }) {
  const path = usePathname();
  const { data } = useMe();
  if (!data) return <p className="text-muted">Asking who you are…</p>;
  const may = (right: Right) => data.rights.includes(right) || (right === "see" && data.rights.includes("self"));
  const here = PARTS.find((part) => part.path === path);
  return (
    <>
      <header className="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-[24px] font-bold leading-none">{here?.title ?? "Settings"}</h1>
        <nav aria-label="Settings" className="ml-auto">
          <ul className="flex flex-wrap gap-x-4">
            {PARTS.filter(({ right }) => may(right)).map(({ path: to, title }) => (
              <li key={to}>
                <Link
                  href={to}
                  aria-current={to === path ? "page" : undefined}
                  className={to === path ? "font-bold text-primary" : "slot"}
                >
                  {title}
                </Link>
              </li>
            ))}
          </ul>
        </nav>
      </header>
      {here && !may(here.right) ? (
        <p className="plate px-3 py-2">
          {data.mustSetUpCodes
            ? "One-time codes are asked of everybody here: set yours up first, under Your account."
            : `This is for owners, and you are ${data.role === "editor" ? "an editor" : "a viewer"}. An owner can change that under People.`}
        </p>
      ) : (
        children
      )}
    </>
  );
}
