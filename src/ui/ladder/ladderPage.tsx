"use client";

import { parseAsString, useQueryState } from "nuqs";
import { ReadingPlate } from "../chart/plate";
import { HoverScope } from "../chart/pointing/hover";
import { ProblemNote } from "../frame/problemNote";
import { useSpan } from "../query/place";
import { useTimes } from "../query/times";
import { useLadder, useService } from "../query/use";
import { ServiceSlot } from "../sentence/serviceSlot";
import { Slot } from "../sentence/slot";
import { Coming } from "./coming";
import { DriftList } from "./driftList";
import { Elsewhere } from "./elsewhere";
import { HeardReleases } from "./heardReleases";
import { LadderTable } from "./ladderTable";
import { AgainstSlot, ForEverybody, LadderTerms } from "./ladderTerms";
import { ladderPlates } from "./plates";

function LadderSkeleton() {
  return (
    <div role="status" aria-label="Reading…" className="plate space-y-4 p-4">
      {[0, 1, 2].map((row) => (
        <div key={row} className="flex gap-6">
          <span className="skeleton-bar h-10 w-32" />
          <span className="skeleton-bar h-10 w-28" />
          <span className="skeleton-bar h-10 flex-1" />
          <span className="skeleton-bar h-10 w-32" />
        </div>
      ))}
    </div>
  );
}

/** The page that stacks a service's releases, newest at the top, on shared axes. */
export function LadderPage() {
  const { moment } = useTimes();
  const place = useService();
  const [metric, setMetric] = useQueryState("metric", parseAsString.withOptions({ history: "push" }));
  const span = useSpan();
  const { data, error, isPlaceholderData } = useLadder(metric, span);
  const serving = data ? data.rungs.filter(({ recentShare }) => recentShare !== null).length : 0;
  return (
    <HoverScope>
      <header className="mb-3 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-[24px] leading-none font-bold wrap-anywhere">
          {place ? <ServiceSlot /> : <span className="skeleton-bar inline-block h-6 w-32" />}
        </h1>
        {data && (
          <p className="text-muted">
            {data.rungs.length + data.older} {data.rungs.length + data.older === 1 ? "release" : "releases"} in this
            window, {serving} serving at its end
          </p>
        )}
        {data?.metric && (
          <p className="ml-auto">
            From{" "}
            <Slot
              name="histogram"
              options={data.metrics.map((name) => ({ value: name }))}
              onChoose={(name) => void setMetric(name)}
            >
              {data.metric}
            </Slot>
            <ForEverybody ladder={data} />
            {place?.environment && (
              <>
                {" "}
                in <b>{place.environment}</b>
              </>
            )}
            , each against <AgainstSlot ladder={data} />
          </p>
        )}
      </header>
      {error && <ProblemNote error={error} />}
      {!data && !error && <LadderSkeleton />}
      {data && (
        <div className={isPlaceholderData && place?.service !== data.service ? "opacity-50" : ""}>
          {data.metric === null ? (
            <div className="plate p-4">
              <h2 className="font-bold">{data.service} reports no histogram of its calls</h2>
              <p className="mt-1 max-w-prose text-muted">
                A ladder is read from a histogram, best <span className="num">http.server.request.duration</span> in
                seconds. Its other metrics can be read in Scratch.
              </p>
              <HeardReleases ladder={data} />
            </div>
          ) : data.rungs.length === 0 ? (
            <div className="plate p-4">
              <h2 className="font-bold">No calls in this window</h2>
              <p className="mt-1 text-muted">
                {data.heard.length > 0
                  ? `${data.service} was last heard on ${moment(Math.max(...data.heard.map(({ lastAt }) => lastAt)))}. Drag the time rail there, or go from release to release with [ and ].`
                  : `${data.service} has not been heard in ${data.environment || "an unnamed environment"}.`}
              </p>
            </div>
          ) : (
            <>
              <Coming ladder={data} />
              <LadderTable ladder={data} />
              {data.older > 0 && (
                <p className="mt-1 text-muted">
                  {data.older} older {data.older === 1 ? "release is" : "releases are"} left out: take an earlier or a
                  shorter window to see {data.older === 1 ? "it" : "them"}.
                </p>
              )}
              <LadderTerms ladder={data} />
            </>
          )}
          <DriftList ladder={data} />
          {data.metric !== null && (
            <Elsewhere
              heard={data.heard.filter(
                // What is left out above is in this window.
                ({ firstAt, lastAt }) => data.older === 0 || lastAt < data.from || firstAt > data.to,
              )}
              shown={data.rungs.map(({ release }) => release ?? "")}
              from={data.from}
              to={data.to}
            />
          )}
        </div>
      )}
      {data?.metric && data.rungs.length > 0 && place && (
        <div className="mt-3 grid grid-cols-1 gap-3 lg:grid-cols-2">
          {ladderPlates(data.metric, place).map(({ title, reading }) => (
            <ReadingPlate key={title} title={title} text={reading} />
          ))}
        </div>
      )}
    </HoverScope>
  );
}
