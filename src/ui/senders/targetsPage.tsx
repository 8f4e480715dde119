"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { TargetEntry } from "@/core/api/targets";
import { failureOf } from "@/core/scrape/failure";
import { formatValue } from "@/core/unit/format";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { duration } from "../frame/times";
import { ask } from "../query/api";
import { useNow } from "../query/place";
import { useTargets } from "../query/services";

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
          ✕ {title}, for {ago}
        </span>
        <span className="num block text-[12.5px] break-words">{detail}</span>
        <span className="block text-[12.5px]">{todo}</span>
      </div>
    );
  }
  return (
    <div>
      <span className="text-success">✓ answers, for {ago}</span>
      <span className="block text-[12.5px] text-muted">
        <span className="num">{count(last.samples)}</span> samples, <span className="num">{count(last.points)}</span>{" "}
        points kept, in <span className="num">{formatValue(last.took, "ms")}</span>
      </span>
      {last.detail && <span className="block text-[12.5px] break-words text-warning">◆ {last.detail}</span>}
    </div>
  );
}

function TargetRow({ target, now, onDeleted }: { target: TargetEntry; now: number; onDeleted: () => void }) {
  const client = useQueryClient();
  const carried = useCarried();
  const [problem, setProblem] = useState<unknown>(null);
  const change = async (send: () => Promise<unknown>) => {
    try {
      await send();
      setProblem(null);
      await client.invalidateQueries({ queryKey: ["targets"] });
      return true;
    } catch (error) {
      setProblem(error);
      return false;
    }
  };
  const pause = () => {
    const { id, hasSecret: _h, createdAt: _c, last: _l, ...request } = target;
    return change(() => ask("PUT /api/targets/{id}", { params: { id }, body: { ...request, paused: !target.paused } }));
  };
  const remove = async () => {
    if (await change(() => ask("DELETE /api/targets/{id}", { params: { id: target.id } }))) onDeleted();
  };
  const edit = `/services/add${carried ? `${carried}&` : "?"}way=scrape&target=${target.id}`;
  return (
    <Row>
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
        <OnlyWith right="own">
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
          <button type="button" className="slot" onClick={() => void remove()} aria-label={`delete ${target.name}`}>
            delete
          </button>
        </OnlyWith>
      </td>
    </Row>
  );
}

/** What was deleted last, and the way back. */
function Deleted({ target, onRestored }: { target: TargetEntry; onRestored: () => void }) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<unknown>(null);
  const restore = async () => {
    try {
      await ask("POST /api/targets/{id}", { params: { id: target.id } });
      await client.invalidateQueries({ queryKey: ["targets"] });
      onRestored();
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <div role="status" className="plate mb-3 px-3 py-2">
      {target.name} at <span className="num">{target.url}</span> is not scraped any more. What was collected stays.{" "}
      <button type="button" className="slot" onClick={() => void restore()}>
        scrape it again
      </button>
      {problem !== null && <ProblemNote error={problem} />}
    </div>
  );
}

/** What is scraped, and how that goes. */
export function TargetsPage() {
  const now = useNow();
  const carried = useCarried();
  const { data, error } = useTargets();
  const [deleted, setDeleted] = useState<TargetEntry | null>(null);
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
      {deleted && <Deleted target={deleted} onRestored={() => setDeleted(null)} />}
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
        <div className="plate px-3 py-2">
          <Table heads={["target", "every", "collects", "state", { name: "change", hidden: true }]}>
            {data.map((target) => (
              <TargetRow key={target.id} target={target} now={now} onDeleted={() => setDeleted(target)} />
            ))}
          </Table>
        </div>
      )}
    </>
  );
}
