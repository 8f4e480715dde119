"use client";

import { Command } from "cmdk";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { usePlace } from "../query/place";
import { useMetrics, useOverview } from "../query/use";
import { commandScore } from "../sentence/commandScore";
import { usualReading } from "../sentence/usual";
import { Dialog } from "./dialog";
import { useCarried } from "./navigation";
import { PAGES } from "./pages";

/** Metrics that are drawn at once. */
const MANY = 200;
const ITEM =
  "flex cursor-pointer justify-between rounded-sm px-2 py-1 data-[selected=true]:bg-primary data-[selected=true]:text-primary-content";
const GROUP =
  "[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-0.5 [&_[cmdk-group-heading]]:text-[11.5px] [&_[cmdk-group-heading]]:text-muted";

/** Finds pages, services and metrics by typing. */
export function Palette({ open, onClose }: { open: boolean; onClose: () => void }) {
  const router = useRouter();
  const carried = useCarried();
  const { chooseService } = usePlace();
  const overview = useOverview();
  const metrics = useMetrics();
  const after = (act: () => void) => () => {
    onClose();
    act();
  };
  const [text, setText] = useState("");
  const all = [...new Map((metrics.data ?? []).map((one) => [one.name, one])).values()];
  // Of very many, only those that are found are drawn.
  const names = all.length > MANY ? all.filter(({ name }) => name.includes(text.trim())).slice(0, MANY) : all;
  return (
    <Dialog title="Find" open={open} onClose={onClose}>
      <Command label="Find" filter={commandScore}>
        <Command.Input
          autoFocus
          value={text}
          onValueChange={setText}
          placeholder="A page, a service, a metric…"
          className="input w-full"
        />
        <Command.List className="mt-2 max-h-80 overflow-y-auto">
          <Command.Empty className="px-2 py-3 text-muted">
            {metrics.data && overview.data ? "Nothing of that name has been heard of" : "Asking what has been heard…"}
          </Command.Empty>
          <Command.Group heading="Pages" className={GROUP}>
            {PAGES.filter(({ found }) => found).map(({ title, path }) => (
              <Command.Item key={path} className={ITEM} onSelect={after(() => router.push(path + carried))}>
                {title}
              </Command.Item>
            ))}
          </Command.Group>
          <Command.Group heading="Services" className={GROUP}>
            {(overview.data?.services ?? []).map(({ service, environment }) => (
              <Command.Item
                key={`${service} ${environment}`}
                value={`service ${service} ${environment}`}
                className={ITEM}
                onSelect={after(() => chooseService(service, environment))}
              >
                <span className="num">{service}</span>
                <span>{environment}</span>
              </Command.Item>
            ))}
          </Command.Group>
          <Command.Group heading="Metrics, opened in scratch" className={GROUP}>
            {names.map((metric) => (
              <Command.Item
                key={metric.name}
                value={`metric ${metric.name}`}
                className={ITEM}
                onSelect={after(() =>
                  router.push(
                    `/scratch${carried ? `${carried}&` : "?"}reading=${encodeURIComponent(usualReading(metric))}`,
                  ),
                )}
              >
                <span className="num">{metric.name}</span>
                <span>{metric.unit}</span>
              </Command.Item>
            ))}
          </Command.Group>
        </Command.List>
      </Command>
    </Dialog>
  );
}
