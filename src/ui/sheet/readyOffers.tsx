"use client";

import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { useServiceSections } from "../query/services";
import { useService } from "../query/use";
import { ServiceSlot } from "../sentence/serviceSlot";

/** Ready sheets of which the service at hand sends something. */
export function ReadyOffers() {
  const place = useService();
  const carried = useCarried();
  const { data } = useServiceSections(place);
  if (!place || !data) return null;
  const offered = data.ready;
  const within = new URLSearchParams(carried);
  within.set("service", place.service);
  within.set("environment", place.environment);
  return (
    <section className="plate mt-3 px-4 py-3" aria-label="Ready sheets">
      <h2 className="font-bold">
        Ready for <ServiceSlot />
      </h2>
      {offered.length === 0 ? (
        <p className="mt-1 text-muted">
          It sends nothing under the names that the standard has for calls, databases, queues, caches, runtimes or
          hosts.
        </p>
      ) : (
        <ul className="mt-1">
          {offered.map(({ id, name, purpose }) => (
            <li key={id} className="py-0.5">
              <Link href={`/sheets/ready?${within}&ready=${id}`} className="slot">
                {name}
              </Link>{" "}
              <span className="text-muted">{purpose}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
