"use client";

import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { keepRequest, type ResolutionEntry, type ResolutionName, type StoredMetric } from "@/core/api/store";
import { faultText } from "@/core/schema/fault";
import { DAY } from "@/core/window/lengths";
import { days } from "../frame/amounts";
import { Dialog } from "../frame/dialog";
import { ProblemNote } from "../frame/problemNote";
import { ApiProblem, ask } from "../query/api";

const FIELDS: { name: ResolutionName; label: string }[] = [
  { name: "raw", label: "Points as they arrived" },
  { name: "minutes", label: "By the minute" },
  { name: "hours", label: "By the hour" },
];

/** For how long one metric is kept; an empty field takes what is usual. */
export function KeepDialog({
  metric,
  usual,
  onClose,
}: {
  metric: StoredMetric | null;
  usual: readonly ResolutionEntry[];
  onClose: () => void;
}) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<unknown>(null);
  const save = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const time = (name: ResolutionName) => {
      const text = String(form.get(name) ?? "").trim();
      return text === "" ? null : Math.round(Number(text) * DAY);
    };
    const request = { metric: metric!.name, raw: time("raw"), minutes: time("minutes"), hours: time("hours") };
    const checked = keepRequest.safeParse(request);
    if (!checked.success) {
      const title = "These times do not go together";
      return setProblem(new ApiProblem({ title, detail: faultText(checked.error.issues[0].message) }, 400));
    }
    try {
      await ask("POST /api/store/keep", { body: request });
      await client.invalidateQueries({ queryKey: ["store"] });
      setProblem(null);
      onClose();
    } catch (error) {
      setProblem(error);
    }
  };
  const close = () => {
    setProblem(null);
    onClose();
  };
  return (
    <Dialog title="How long it is kept" open={metric !== null} onClose={close}>
      {metric && (
        <form onSubmit={save} className="space-y-3">
          <h2 className="text-base font-bold">
            How long <span className="num">{metric.name}</span> is kept
          </h2>
          {FIELDS.map(({ name, label }) => {
            const own = metric.keep[name];
            const standard = usual.find(({ resolution }) => resolution === name)!.keep;
            return (
              <label key={name} className="flex items-baseline justify-between gap-3">
                <span>{label}</span>
                <span className="flex items-baseline gap-2">
                  <input
                    name={name}
                    type="number"
                    min={1}
                    step="any"
                    defaultValue={own === null ? "" : own / DAY}
                    placeholder={String(standard / DAY)}
                    className="input input-sm num w-24"
                  />
                  <span className="w-32 text-muted">days, usually {days(standard).replace(/ days?$/, "")}</span>
                </span>
              </label>
            );
          })}
          <p className="text-muted">What is too old by a shorter time is deleted for good within minutes.</p>
          {problem !== null && <ProblemNote error={problem} />}
          <div className="flex justify-end gap-2">
            <button type="button" className="btn btn-sm" onClick={close}>
              Leave it
            </button>
            <button type="submit" className="btn btn-sm btn-primary">
              Keep it so
            </button>
          </div>
        </form>
      )}
    </Dialog>
  );
}
