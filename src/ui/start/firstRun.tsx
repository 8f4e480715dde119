"use client";

import { WaysIn } from "../add/addPage";

/** The page of a store without data: how to get the first points in; it makes room as soon as one arrives. */
export function FirstRun() {
  return (
    <div className="mx-auto max-w-4xl pt-2">
      <h1 className="text-[22px] font-bold">Nothing has arrived yet</h1>
      <p className="mt-1 mb-4 text-muted">
        Point a service at this intake. Its releases appear here with the first point, without a reload.
      </p>
      <WaysIn />
    </div>
  );
}
