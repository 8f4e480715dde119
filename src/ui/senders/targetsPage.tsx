"use client";

import { useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useState } from "react";
import type { TargetEntry } from "@/core/api/targets";
import { failureOf } from "@/core/scrape/failure";
import { formatValue } from "@/core/unit/format";
import { Dialog } from "../frame/dialog";
import { useCarried } from "../frame/navigation";
import { ProblemNote } from "../frame/problemNote";
import { duration } from "../frame/times";
import { deleteAt, postJson } from "../query/api";
import { useNow } from "../query/place";
import { useTargets } from "../query/services";
import { count } from "../store/amounts";

function choiceWords({ choice }: TargetEntry): string {
  if (choice.type === "all") return "everything";
  if (choice.type === "metrics") return `${choice.names.length} ${choice.names.length === 1 ? "metric" : "metrics"}`;
  return choice.pattern;
}

function State({ target, now }: { target: TargetEntry; now: number }) {
  const { last, paused } = target;
  if (paused) return <span className="text-muted">▬ paused</span>;
  if (!last) return <span className="text-warning">◆ waits for its first scrape</span>;
  const ago = duration(Math.max(0, now - last.since));
  if (last.failure) {
    const { title, detail, todo } = failureOf(last.failure, last.detail ?? "");
    return (
      <div>
        <span className="text-error">
          ▼ {title}, for {ago}
        </span>
        <span className="num block text-[12.5px] break-words">{detail}</span>
        <span className="block text-[12.5px]">{todo}</span>
      </div>
    );
  }
  return (
    <div>
      <span className="text-success">▲ answers, for {ago}</span>
      <span className="block text-[12.5px] text-muted">
        <span className="num">{count(last.samples)}</span> samples, <span className="num">{count(last.points)}</span>{" "}
        points kept, in <span className="num">{formatValue(last.took, "ms")}</span>
      </span>
      {last.detail && <span className="block text-[12.5px] break-words text-warning">◆ {last.detail}</span>}
    </div>
  );
}

function TargetRow({ target, now, onDelete }: { target: TargetEntry; now: number; onDelete: () => void }) {
  const client = useQueryClient();
  const carried = useCarried();
  const [problem, setProblem] = useState<unknown>(null);
  const pause = async () => {
    const { id, hasSecret: _h, createdAt: _c, last: _l, ...request } = target;
    try {
      await postJson(`/api/targets/${id}`, { ...request, paused: !target.paused }, "PUT");
      setProblem(null);
      await client.invalidateQueries({ queryKey: ["targets"] });
    } catch (error) {
      setProblem(error);
    }
  };
  const edit = `/services/add${carried ? `${carried}&` : "?"}way=scrape&target=${target.id}`;
  return (
    <tr className="border-b border-base-300/50 align-baseline last:border-b-0">
      <th scope="row" className="py-1.5 pr-4 text-left">
        {target.name}
        <span className="num block text-[12.5px] font-normal break-all text-muted">{target.url}</span>
      </th>
      <td className="num pr-4 whitespace-nowrap">{formatValue(target.every / 1000, "s")}</td>
      <td className="pr-4 break-all">{choiceWords(target)}</td>
      <td className="max-w-md pr-4">
        <State target={target} now={now} />
        {problem !== null && <ProblemNote error={problem} />}
      </td>
      <td className="text-right whitespace-nowrap">
        <Link className="slot" href={edit} aria-label={`change ${target.name}`}>
          change
        </Link>{" "}
        <button
          type="button"
          className="slot"
          onClick={() => void pause()}
          aria-label={`${target.paused ? "resume" : "pause"} ${target.name}`}
        >
          {target.paused ? "resume" : "pause"}
        </button>{" "}
        <button type="button" className="slot" onClick={onDelete} aria-label={`delete ${target.name}`}>
          delete…
        </button>
      </td>
    </tr>
  );
}

function DeleteDialog({ target, onClose }: { target: TargetEntry | null; onClose: () => void }) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<unknown>(null);
  const remove = async () => {
    try {
      await deleteAt(`/api/targets/${target!.id}`);
      setProblem(null);
      await client.invalidateQueries({ queryKey: ["targets"] });
      onClose();
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <Dialog title="Delete a target" open={target !== null} onClose={onClose}>
      {target && (
        <>
          <h2 className="text-base font-bold">
            Stop scraping <span className="num">{target.name}</span>?
          </h2>
          <p className="mt-1">
            Its address, choice{target.hasSecret ? " and secret" : ""} are forgotten. What was collected stays. To stop
            for a while, pause it instead.
          </p>
          {problem !== null && <ProblemNote error={problem} />}
          <div className="mt-3 flex justify-end gap-2">
            <button type="button" className="btn btn-sm" onClick={onClose}>
              Keep it
            </button>
            <button type="button" className="btn btn-sm btn-error" onClick={() => void remove()}>
              Delete it
            </button>
          </div>
        </>
      )}
    </Dialog>
  );
}

/** What is scraped, and how that goes. */
export function TargetsPage() {
  const now = useNow();
  const carried = useCarried();
  const { data, error } = useTargets();
  const [deleting, setDeleting] = useState<TargetEntry | null>(null);
  const add = `/services/add${carried ? `${carried}&` : "?"}way=scrape`;
  return (
    <>
      <header className="mb-3 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-[24px] font-bold leading-none">Targets</h1>
        {data && <p className="text-muted">read by the intake, each at its own interval; changes apply at once</p>}
        <p className="ml-auto flex items-baseline gap-4">
          <Link className="slot" href={`/services${carried}`}>
            all services
          </Link>
          <Link className="btn btn-sm btn-primary" href={add}>
            Add a target
          </Link>
        </p>
      </header>
      {error && !data && <ProblemNote error={error} />}
      {data?.length === 0 && (
        <div className="plate p-4">
          <h2 className="font-bold">Nothing is scraped</h2>
          <p className="mt-1 text-muted">
            Where something shows its metrics as text at an address, add it: it is tried first, and you choose what is
            collected.
          </p>
        </div>
      )}
      {data && data.length > 0 && (
        <div className="plate overflow-x-auto px-3 py-2">
          <table className="w-full border-collapse text-[13px]">
            <thead className="text-left">
              <tr className="border-b border-base-300">
                {["target", "every", "collects", "state"].map((head) => (
                  <th key={head} scope="col" className="py-1 pr-4">
                    {head}
                  </th>
                ))}
                <th scope="col">
                  <span className="sr-only">change</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {data.map((target) => (
                <TargetRow key={target.id} target={target} now={now} onDelete={() => setDeleting(target)} />
              ))}
            </tbody>
          </table>
        </div>
      )}
      <DeleteDialog target={deleting} onClose={() => setDeleting(null)} />
    </>
  );
}
