"use client";

import { useQuery } from "@tanstack/react-query";
import type { HomeEntry } from "@/core/api/home";
import { type Standing, standingOf } from "@/core/release/worst";
import { digits } from "@/core/unit/format";
import { DAY, MINUTE } from "@/core/window/lengths";
import { ageStroke } from "../chart/colours";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { shortName } from "../frame/names";
import { ProblemNote } from "../frame/problemNote";
import { ago } from "../frame/times";
import { asking } from "../query/asking";
import { comparisonAddress } from "../query/compared";
import { useNow } from "../query/place";
import { homeQuestion } from "../query/questions";
import { useTimes } from "../query/times";

/** The first page: every service, what serves, and how the newest release does, the worst first. */

const LATELY = 7 * DAY;
const MAX_NAME = 22;
/** An outlook that is older was made for another moment, ms. */
const OLD = 40 * MINUTE;

const INK: Record<Standing["tone"], string> = {
  bad: "font-bold text-error",
  good: "text-success",
  waiting: "text-warning",
  quiet: "text-muted",
};
const MARK: Record<Standing["tone"], string> = { bad: "✕", good: "✓", waiting: "…", quiet: "·" };

/** Seven days with the releases of a service, the newest at the right. */
function Week({ entry, now }: { entry: HomeEntry; now: number }) {
  const x = (at: number) => Math.max(0, Math.min(100, (1 - (now - at) / LATELY) * 100));
  return (
    <div className="relative h-6 w-full min-w-28 border-b-[3px] border-double border-base-300" aria-hidden="true">
      {Array.from({ length: 6 }, (_, day) => (
        <span
          key={day}
          className="absolute bottom-0 h-1.5 border-l border-base-300"
          style={{ left: `${((day + 1) / 7) * 100}%` }}
        />
      ))}
      {[...entry.lately].reverse().map(({ release, at }, i, all) => (
        <span
          key={release}
          className="absolute bottom-0 h-5 border-l-2"
          style={{ left: `${x(at)}%`, borderColor: ageStroke(all.length - 1 - i).colour }}
        />
      ))}
    </div>
  );
}

function Serving({ entry }: { entry: HomeEntry }) {
  const serving = entry.outlook?.serving ?? [];
  if (serving.length === 0)
    return (
      <span className="text-muted">
        {entry.newest ? <span className="num">{shortName(entry.newest.release, MAX_NAME)}</span> : "no release named"}
      </span>
    );
  return (
    <ul className="space-y-0.5">
      {serving.slice(0, 3).map(({ release, share }, age) => (
        <li key={release} className="flex items-baseline gap-2">
          <span className={`num font-semibold ${age === 0 ? "text-primary" : "text-muted"}`}>
            {shortName(release || "no release", MAX_NAME)}
          </span>
          {serving.length > 1 && (
            <>
              <span className="num text-[12px] whitespace-nowrap text-muted">{digits(share * 100)} %</span>
              <span
                aria-hidden="true"
                className="inline-block h-1.5"
                style={{ width: `${Math.max(2, share * 64)}px`, background: ageStroke(age).colour }}
              />
            </>
          )}
        </li>
      ))}
      {serving.length > 3 && <li className="text-[12px] text-muted">and {serving.length - 3} more</li>}
    </ul>
  );
}

function addressOf({ service, environment, outlook }: HomeEntry): string {
  const place = { service, environment };
  if (outlook?.verdict) {
    const { release, against } = outlook.verdict;
    const span = new URLSearchParams({ from: String(outlook.from), to: String(outlook.to) });
    return comparisonAddress(outlook.verdict.way === "side by side" ? "" : `?${span}`, { ...place, release, against });
  }
  return `/releases?${new URLSearchParams({ service, ...(environment === "" ? {} : { environment }) })}`;
}

function Row({ entry, now }: { entry: HomeEntry; now: number }) {
  const { moment } = useTimes();
  const { service, environment, newest, outlook, findings, coming } = entry;
  const { tone, reason } = standingOf(entry);
  const query = new URLSearchParams({ service, ...(environment === "" ? {} : { environment }) });
  return (
    <li className="grid grid-cols-[minmax(110px,1.1fr)_minmax(130px,1.2fr)_minmax(200px,2.4fr)_minmax(110px,1.5fr)] items-center gap-x-5 border-b-[3px] border-base-300 py-2.5 pr-4 pl-3 last:border-b-0">
      <div className="border-l-[3px] border-double border-secondary/60 pl-3">
        <Link
          href={`/releases?${query}`}
          className="text-[17px] leading-tight font-bold wrap-anywhere hover:text-primary"
        >
          {service}
        </Link>
        <p className="text-[12px] text-muted">
          {environment || "no environment"}
          {outlook?.rate != null && <span className="num whitespace-nowrap">, {digits(outlook.rate)} /s</span>}
        </p>
      </div>
      <Serving entry={entry} />
      <div>
        <Link href={addressOf(entry)} className={`hover:underline ${INK[tone]}`}>
          <span aria-hidden="true">{MARK[tone]} </span>
          {entry.silent ? `fell silent ${ago(entry.lastAt, now)}` : reason || "nothing to say yet"}
        </Link>
        <p className="text-[12px] text-muted">
          {[
            ...(outlook?.verdict && outlook.to < now - OLD ? [`as of ${moment(outlook.to).slice(0, -3)}`] : []),
            ...coming.map((release) => `${release} is announced`),
          ].join(", ")}
          {findings > 0 && (
            <>
              {coming.length > 0 && ", "}
              <Link href="/instruments" className="underline decoration-dotted underline-offset-2">
                {findings} {findings === 1 ? "finding" : "findings"} on what it reports
              </Link>
            </>
          )}
        </p>
      </div>
      <div>
        <Week entry={entry} now={now} />
        <p className="mt-0.5 text-[12px] text-muted">
          {newest ? (
            <>
              <span className="num">{shortName(newest.release, MAX_NAME)}</span>
              {`, ${ago(newest.firstAt, now)}`}
            </>
          ) : (
            "no release was heard"
          )}
        </p>
      </div>
    </li>
  );
}

function headline(services: readonly HomeEntry[]): string {
  const tones = services.map((entry) => standingOf(entry).tone);
  const bad = tones.filter((tone) => tone === "bad").length;
  const waiting = tones.filter((tone) => tone === "waiting").length;
  const of = `${services.length} ${services.length === 1 ? "service" : "services"}`;
  if (bad > 0)
    return `${bad} of ${of} ${bad === 1 ? "needs" : "need"} a look${waiting > 0 ? `, of ${waiting} more it is not known yet` : ""}`;
  return waiting > 0
    ? `nothing is known to be worse; of ${waiting} of ${of} it is not known yet`
    : `${of}, and nothing that needs a look`;
}

export function HomePage() {
  const now = useNow();
  const { data, error } = useQuery({ ...asking(homeQuestion()), refetchInterval: 10_000 });
  return (
    <div>
      <header className="mb-3 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-[24px] leading-none font-bold">Home</h1>
        {data && <p className="text-muted">{headline(data.services)}</p>}
        <p className="ml-auto text-[12px] text-muted">right: the last seven days, with the releases that came</p>
      </header>
      {error && <ProblemNote error={error} />}
      {!data && !error && (
        <div role="status" aria-label="Reading…" className="plate space-y-4 p-4">
          {[0, 1, 2, 3].map((row) => (
            <div key={row} className="flex gap-6">
              <span className="skeleton-bar h-9 w-32" />
              <span className="skeleton-bar h-9 flex-1" />
              <span className="skeleton-bar h-9 w-40" />
            </div>
          ))}
        </div>
      )}
      {data && (
        <ul className="plate overflow-x-auto">
          {data.services.map((entry) => (
            <Row key={`${entry.service} ${entry.environment}`} entry={entry} now={now || data.at} />
          ))}
          {data.all > data.services.length && (
            <li className="p-3 text-muted">
              {`${count(data.all - data.services.length)} more that were heard longer ago are on `}
              <Link href="/services" className="underline underline-offset-2">
                Services
              </Link>
            </li>
          )}
        </ul>
      )}
    </div>
  );
}
