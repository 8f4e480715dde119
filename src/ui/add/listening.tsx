"use client";

import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { RejectedRequestEntry } from "@/core/api/senders";
import type { InstanceEntry, ServiceMetric } from "@/core/api/services";
import type { TargetEntry } from "@/core/api/targets";
import { serviceTests } from "@/core/reading/language/quote";
import { failureOf } from "@/core/scrape/failure";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { ask } from "../query/api";
import { usualReading } from "../sentence/usual";

const ASK_EVERY = 1500;
/** After which silence there is something to check, ms. */
const PATIENCE = 20_000;

interface Arrival {
  /** Who was waited for, once heard: the instance that came last, with what all instances together sent. */
  arrived: (InstanceEntry & { instances: number }) | null;
  metrics: ServiceMetric[];
  /** Others that were first heard since. */
  others: InstanceEntry[];
  rejected: RejectedRequestEntry[];
  target: TargetEntry | null;
}

async function look(service: string, since: number, targetId: number | null, signal: AbortSignal): Promise<Arrival> {
  const [{ instances }, senders, targets] = await Promise.all([
    ask("GET /api/services", { query: { from: since, to: Date.now() + 1000 } }, signal),
    ask("GET /api/senders", {}, signal),
    targetId === null ? { targets: [] } : ask("GET /api/targets", {}, signal),
  ]);
  const own = instances.filter((one) => one.service === service && one.lastAt >= since);
  const [newest] = [...own].sort((a, b) => b.firstAt - a.firstAt);
  const sum = (pick: (one: InstanceEntry) => number) => own.reduce((total, one) => total + pick(one), 0);
  const arrived = newest
    ? { ...newest, points: sum(({ points }) => points), series: sum(({ series }) => series), instances: own.length }
    : null;
  const { metrics } = arrived
    ? await ask(
        "GET /api/services/metrics",
        { query: { service: arrived.service, environment: arrived.environment } },
        signal,
      )
    : { metrics: [] };
  return {
    arrived,
    metrics,
    others: instances.filter((one) => one.service !== service && one.firstAt >= since),
    rejected: senders.rejected.filter(({ lastAt }) => lastAt >= since),
    target: targets.targets.find(({ id }) => id === targetId) ?? null,
  };
}

function Arrived({
  arrived,
  metrics,
}: {
  arrived: NonNullable<Arrival["arrived"]>;
  metrics: readonly ServiceMetric[];
}) {
  const parameters = new URLSearchParams({ last: "15m", service: arrived.service });
  if (arrived.environment) parameters.set("environment", arrived.environment);
  return (
    <div className="plate border-l-4 border-l-success p-3">
      <p className="font-bold text-success">
        ✓ {count(arrived.points)} {arrived.points === 1 ? "point" : "points"} from {arrived.service}
        {arrived.release && <span className="num"> {arrived.release}</span>}
        {arrived.instances > 1 && <>, {count(arrived.instances)} instances</>}
        {arrived.instances === 1 && arrived.instance === "" && (
          <span className="font-normal">, which names no instance</span>
        )}
      </p>
      <p>
        {metrics.length} {metrics.length === 1 ? "metric" : "metrics"} in {count(arrived.series)}{" "}
        {arrived.series === 1 ? "series" : "series"}:{" "}
        {metrics.slice(0, 12).map((metric, i) => (
          <span key={`${metric.name} ${metric.kind} ${metric.unit}`}>
            {i > 0 && ", "}
            <Link
              className="slot num"
              href={`/scratch?${parameters}&reading=${encodeURIComponent(usualReading(metric, { where: serviceTests(arrived.service, arrived.environment) }))}`}
            >
              {metric.name}
            </Link>
          </span>
        ))}
        {metrics.length > 12 && ` and ${metrics.length - 12} more`}
      </p>
      {!arrived.release && (
        <p className="mt-1 text-warning">
          ◆ It names no <span className="num">service.version</span>, so its points belong to no release.
        </p>
      )}
      <p className="mt-2 flex gap-3">
        <Link className="btn btn-sm btn-primary" href={`/services/one?${parameters}`}>
          See the service
        </Link>
        <Link className="btn btn-sm" href={`/releases?${parameters}`}>
          See its releases
        </Link>
      </p>
    </div>
  );
}

/** What is known of why nothing has come. */
function Diagnosis({ arrival, waited, checks }: { arrival: Arrival; waited: number; checks: readonly string[] }) {
  const { target, rejected, others } = arrival;
  const failure = target?.last?.failure ? failureOf(target.last.failure, target.last.detail ?? "") : null;
  return (
    <ul className="mt-1 space-y-1">
      {failure && (
        <li className="text-error">
          ✕ {failure.title}: {failure.detail}. <span className="text-base-content">{failure.todo}</span>
        </li>
      )}
      {rejected.map((one) => (
        <li key={one.id} className="text-error">
          ✕ Someone at <span className="num">{one.address}</span>
          {one.agent && <span className="num"> ({one.agent})</span>} was turned away at{" "}
          <span className="num">{one.request}</span>:{" "}
          <span className="text-base-content">
            {one.status}, {one.reason}
          </span>
        </li>
      ))}
      {others.map((one) => (
        <li key={`${one.service} ${one.instance}`} className="text-warning">
          ◆ <span className="num">{one.service}</span> began to send meanwhile. If this is the one, it goes by another
          name: <span className="text-base-content">set OTEL_SERVICE_NAME.</span>
        </li>
      ))}
      {waited > PATIENCE &&
        rejected.length === 0 &&
        !failure &&
        checks.map((check) => (
          <li key={check} className="text-muted">
            {check}
          </li>
        ))}
    </ul>
  );
}

/**
 * Waits for the first points of a service, and says what came instead.
 *
 * @param checks what to look at where nothing comes for a while
 */
export function Listening({
  service,
  since,
  targetId = null,
  checks,
}: {
  service: string;
  since: number;
  targetId?: number | null;
  checks: readonly string[];
}) {
  const [now, setNow] = useState(since);
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  const { data } = useQuery({
    queryKey: ["listening", service, since, targetId],
    queryFn: ({ signal }) => look(service, since, targetId, signal),
    refetchInterval: ASK_EVERY,
  });
  const waited = Math.max(0, now - since);
  return (
    <output className="mt-4 block" aria-live="polite">
      {data?.arrived ? (
        <Arrived arrived={data.arrived} metrics={data.metrics} />
      ) : (
        <div className="plate border-l-4 border-l-warning p-3">
          <p className="flex items-center gap-3">
            <span aria-hidden="true" className="skeleton-bar h-3 w-3 rounded-full bg-warning" />
            <span>
              Listening for <span className="num font-semibold">{service || "…"}</span> for{" "}
              <span className="num">{Math.round(waited / 1000)} s</span>…
            </span>
          </p>
          {data && <Diagnosis arrival={data} waited={waited} checks={checks} />}
        </div>
      )}
    </output>
  );
}
