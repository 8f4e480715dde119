import type { PurgeEntry, PurgeRequest } from "@/core/api/purge";
import { count, size } from "../frame/amounts";
import type { Times } from "../frame/times";
import { useTimes } from "../query/times";

function words({ metric, attribute, from, to }: PurgeRequest, { moment }: Times): string {
  const which = attribute ? ` where ${attribute.name} is "${attribute.value}"` : "";
  const when = from !== undefined && to !== undefined ? `, ${moment(from)} – ${moment(to)}` : "";
  return `${metric}${which}${when}`;
}

/** Who deleted what, and when. */
export function PurgeRecord({ purges }: { purges: readonly PurgeEntry[] }) {
  const times = useTimes();
  return (
    <section className="plate px-3 pt-2 pb-2">
      <h2 className="font-bold">Deleted on purpose</h2>
      {purges.length === 0 ? (
        <p className="py-1 text-muted">Nothing so far. Whoever deletes points of a metric is noted here.</p>
      ) : (
        <ul className="mt-1">
          {purges.map((one) => (
            <li key={one.id} className="border-b border-base-300/50 py-1 last:border-b-0">
              <span className="num">{words(one.what, times)}</span>
              <span className="text-muted">
                {" "}
                by {one.who}, <span className="num">{times.moment(one.at)}</span>:{" "}
                {one.finishedAt === null ? "at work, " : ""}
                <span className="num">{count(one.points)}</span> rows,{" "}
                <span className="num">{size(Math.max(0, one.bytes))}</span> freed
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
