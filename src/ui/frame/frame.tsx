"use client";

import dynamic from "next/dynamic";
import { usePathname, useRouter, useSearchParams } from "next/navigation";
import { useTheme } from "next-themes";
import { type ReactNode, useEffect, useState } from "react";
import { HOUR } from "@/core/window/lengths";
import { useDoneBefore } from "../before/useDoneBefore";
import { whenUnknown } from "../query/api";
import { usePlace } from "../query/place";
import { useOverview } from "../query/use";
import { Dialog } from "./dialog";
import { Guard } from "./guard";
import { HandScope, useHand } from "./inHand";
import { KEYS, MARKS } from "./legend";
import { Navigation, useCarried } from "./navigation";
import { isEntry, RUNGS } from "./pages";
import { ProblemNote } from "./problemNote";
import { TimeRail } from "./rail";
import { singleKeysOn, useSingleKeys } from "./singleKeys";
import { useTravel } from "./travel";

const FirstRun = dynamic(() => import("../start/firstRun").then((module) => module.FirstRun));
const KeepDialog = dynamic(() => import("../sheet/dialogs/keepDialog").then((module) => module.KeepDialog));
const Palette = dynamic(() => import("./palette").then((module) => module.Palette));

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName))
  );
}

/** What stands around every page. Pages for who is not signed in stand by themselves. */
export function Frame({ children }: { children: ReactNode }) {
  useDoneBefore();
  const path = usePathname();
  const entry = isEntry(path);
  useEffect(() => {
    // Who was signed out meanwhile signs in, and comes back to where they were.
    whenUnknown(
      entry ? null : () => location.assign(`/sign-in?to=${encodeURIComponent(location.pathname + location.search)}`),
    );
  }, [entry]);
  if (!entry)
    return (
      <HandScope>
        <Framed>{children}</Framed>
      </HandScope>
    );
  // A sheet takes all the room there is.
  const form = path === "/shared" ? "px-5 pt-4" : "flex items-start justify-center px-4 pt-[12vh]";
  return (
    <main id="main" className={`min-h-dvh pb-8 ${form}`}>
      <Guard what="This page" again={path}>
        {children}
      </Guard>
    </main>
  );
}

/** The ladder on the left, the time rail below, and the keys. */
function Framed({ children }: { children: ReactNode }) {
  const router = useRouter();
  const path = usePathname();
  const carried = useCarried();
  const travel = useTravel();
  const overview = useOverview();
  const { resolvedTheme, setTheme } = useTheme();
  const { chooseWindow } = usePlace();
  const [finding, setFinding] = useState(false);
  const [keys, setKeys] = useState(false);
  const [singleKeys, switchSingleKeys] = useSingleKeys();
  const { held, keeping, keep } = useHand();

  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        setFinding(true);
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target) || !singleKeysOn()) return;
      const rung = RUNGS[Number(event.key) - 1];
      if (rung) router.push(rung.path + carried);
      else if (event.key === "0") router.push(`/${carried}`);
      else if (event.key === "[") travel.go(-1);
      else if (event.key === "]") travel.go(1);
      else if (event.key === "?") setKeys(true);
      else if (event.key === "k" && held.current) {
        event.preventDefault();
        keep(held.current);
      } else if (event.key === "l") chooseWindow({ type: "last", length: 6 * HOUR });
      else if (event.key === "t") setTheme(resolvedTheme === "soot" || resolvedTheme === "dark" ? "tin" : "soot");
      else if (event.key === "e" && !path.startsWith("/scratch")) router.push(`/scratch${carried}`);
      else if (event.key === "/") {
        event.preventDefault();
        setFinding(true);
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [router, carried, travel, path, resolvedTheme, setTheme, chooseWindow, held, keep]);

  const nothingYet = overview.data?.services.length === 0;
  // One's own account needs nothing to have arrived, and may be all that one may see.
  const settings = path.startsWith("/settings");
  const wall = useSearchParams().get("wall") === "yes" && path === "/sheets/one";
  return (
    <div className="flex h-dvh min-h-[480px]">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-base-100 focus:p-2">
        To the content
      </a>
      {!wall && <Navigation onKeys={() => setKeys(true)} />}
      <div className="flex min-w-0 flex-1 flex-col">
        <main id="main" className="min-h-0 flex-1 overflow-y-auto px-5 pt-4 pb-6">
          {nothingYet && !path.startsWith("/services/") && !settings ? (
            <FirstRun />
          ) : overview.isError && !overview.data && !settings ? (
            <ProblemNote error={overview.error} />
          ) : (
            <Guard what="This page" again={path}>
              {children}
            </Guard>
          )}
        </main>
        {!nothingYet && !settings && !wall && (
          <Guard what="The time rail" again={path}>
            <TimeRail travel={travel} />
          </Guard>
        )}
      </div>
      {keeping && <KeepDialog what={keeping} onClose={() => keep(null)} />}
      {finding && <Palette open onClose={() => setFinding(false)} />}
      <Dialog title="Keys" open={keys} onClose={() => setKeys(false)}>
        <h2 className="mb-2 text-base font-bold">Keys</h2>
        <dl className="grid grid-cols-[6rem_1fr] gap-y-1">
          {KEYS.map(({ keys: key, does }) => (
            <div key={key} className="contents">
              <dt className="num font-semibold">{key}</dt>
              <dd>{does}</dd>
            </div>
          ))}
        </dl>
        <label className="mt-3 flex items-baseline gap-2">
          <input
            type="checkbox"
            checked={singleKeys}
            onChange={(event) => switchSingleKeys(event.target.checked)}
            className="checkbox checkbox-sm self-center"
          />
          Single letters and figures are keys
        </label>
        <p className="text-[12.5px] text-muted">Without them, Ctrl K still finds everything. Kept in this browser.</p>
        <h2 className="mt-4 mb-2 text-base font-bold">Marks</h2>
        <dl className="grid grid-cols-[6rem_1fr] gap-y-1">
          {MARKS.map(({ mark, says }) => (
            <div key={mark} className="contents">
              <dt className="font-semibold">{mark}</dt>
              <dd>{says}</dd>
            </div>
          ))}
        </dl>
      </Dialog>
    </div>
  );
}
