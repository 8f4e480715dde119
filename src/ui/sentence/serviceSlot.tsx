"use client";

import { usePlace } from "../query/place";
import { useOverview, useService } from "../query/use";
import { Slot } from "./slot";

/** The service in hand, changed in place; nothing until the services are known. */
export function ServiceSlot({ oneLine }: { oneLine?: boolean }) {
  const overview = useOverview();
  const place = useService();
  const { chooseService } = usePlace();
  if (!place || !overview.data) return null;
  const options = overview.data.services.map(({ service, environment }) => ({
    value: JSON.stringify([service, environment]),
    label: service,
    note: environment || "no environment",
  }));
  return (
    <Slot
      name="service"
      oneLine={oneLine}
      options={options}
      onChoose={(value) => {
        const [service, environment] = JSON.parse(value) as [string, string];
        chooseService(service, environment);
      }}
    >
      {place.service}
    </Slot>
  );
}
