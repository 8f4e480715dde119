"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import dynamic from "next/dynamic";
import { useRouter } from "next/navigation";
import { useMemo, useState } from "react";
import type { SheetEntry } from "@/core/api/sheets";
import { EMPTY_SHEET } from "@/core/sheet/empty";
import type { SheetFile } from "@/core/sheet/file";
import type { Repair } from "@/core/sheet/repair";
import { Dialog } from "../frame/dialog";
import { Field, Form } from "../frame/form";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { saveFile } from "../frame/save";
import { Row, Table } from "../frame/table";
import { ago } from "../frame/times";
import { ask } from "../query/api";
import { useMay } from "../query/me";
import { useNow } from "../query/place";
import { useSheets } from "../query/sheets";
import { RepairDialog } from "./dialogs/repairDialog";
import { ReadyOffers } from "./readyOffers";

/** What a file says is read by the schemas of sheets, which this page does not need before. */
const ImportDialog = dynamic(() => import("./dialogs/importDialog").then((module) => module.ImportDialog));

/** Whether a sheet is what somebody looks for: by name, purpose, tag, or what it reads. */
function isFound({ name, purpose, tags, metrics, attributes }: SheetEntry, wanted: string): boolean {
  return wanted
    .toLowerCase()
    .split(/\s+/)
    .every((word) =>
      [name, purpose, ...tags, ...metrics, ...attributes].some((text) => text.toLowerCase().includes(word)),
    );
}

/** Those at hand first, then what was opened last, then the others by name. */
function inOrder(sheets: readonly SheetEntry[]): SheetEntry[] {
  return [...sheets].sort(
    (a, b) =>
      Number(b.starred) - Number(a.starred) ||
      (b.openedAt ?? 0) - (a.openedAt ?? 0) ||
      a.name.localeCompare(b.name, "en", { numeric: true }),
  );
}

function NewSheet({ onClose }: { onClose: () => void }) {
  const router = useRouter();
  const carried = useCarried();
  const client = useQueryClient();
  return (
    <Dialog title="A new sheet" open onClose={onClose}>
      <h2 className="text-base font-bold">A new sheet</h2>
      <Form
        button="Make it"
        send={async ({ name, purpose = "" }) => {
          const { id } = await ask("POST /api/sheets", {
            body: { sheet: { ...EMPTY_SHEET, name, purpose }, note: "begun" },
          });
          await client.invalidateQueries({ queryKey: ["sheets"] });
          router.push(`/sheets/one${carried}${carried ? "&" : "?"}sheet=${id}`);
        }}
      >
        <Field name="name" label="its name" placeholder="Lending floor" maxLength={120} autoComplete="off" />
        <Field
          name="purpose"
          label="what it is for, and for whom"
          placeholder="what the loans team looks at in the morning"
          maxLength={500}
          required={false}
          autoComplete="off"
        />
      </Form>
    </Dialog>
  );
}

function SheetRow({
  entry,
  now,
  href,
  problem,
}: {
  entry: SheetEntry;
  now: number;
  href: string;
  problem: (error: unknown) => void;
}) {
  const client = useQueryClient();
  const mayEdit = useMay("edit");
  const [sure, setSure] = useState(false);
  const { id, starred } = entry;
  const does = (work: Promise<unknown>) =>
    work.then(() => client.invalidateQueries({ queryKey: ["sheets"] })).catch(problem);
  return (
    <Row>
      <td className="py-1 pr-2">
        <button
          type="button"
          aria-pressed={starred}
          aria-label={`keep ${entry.name} at hand`}
          className={starred ? "text-primary" : "text-muted hover:text-base-content"}
          onClick={() => void does(ask("PUT /api/sheets/{id}/star", { params: { id }, body: { starred: !starred } }))}
        >
          {starred ? "★" : "☆"}
        </button>
      </td>
      <th scope="row" className="min-w-40 py-1 pr-4 text-left">
        <Link href={href} className="slot">
          {entry.name}
        </Link>
        {entry.drafted && <span className="ml-2 font-normal text-warning">◆ you have changes</span>}
      </th>
      <td className="pr-4 text-muted">{entry.purpose}</td>
      <td className="pr-4">
        {entry.tags.join(", ")}
        {entry.readers.length > 0 && <span className="text-muted"> for {entry.readers.length}</span>}
      </td>
      <td className="num pr-4 text-right">{entry.plates}</td>
      <td className="pr-4 whitespace-nowrap">{entry.openedAt === null ? "" : ago(entry.openedAt, now)}</td>
      <td className="num pr-4 text-right">{entry.lookers}</td>
      <td className="pr-4 whitespace-nowrap text-muted">
        {ago(entry.at, now)}, {entry.who}
      </td>
      <td className="text-right whitespace-nowrap">
        {mayEdit &&
          (sure ? (
            <>
              It comes back for thirty days.{" "}
              <button
                type="button"
                className="btn btn-xs btn-error"
                onClick={() =>
                  void does(ask("DELETE /api/sheets/{id}", { params: { id } })).finally(() => setSure(false))
                }
              >
                Throw it away
              </button>{" "}
              <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
                Keep it
              </button>
            </>
          ) : (
            <button
              type="button"
              className="slot"
              aria-label={`throw ${entry.name} away`}
              onClick={() => setSure(true)}
            >
              throw away…
            </button>
          ))}
      </td>
    </Row>
  );
}

function Thrown({ entries, now }: { entries: readonly SheetEntry[]; now: number }) {
  const client = useQueryClient();
  if (entries.length === 0) return null;
  const back = async (id: string) => {
    await ask("POST /api/sheets/{id}/back", { params: { id } });
    await client.invalidateQueries({ queryKey: ["sheets"] });
  };
  return (
    <details className="plate mt-3 px-4 py-2">
      <summary className="cursor-pointer">
        {entries.length} thrown away; {entries.length === 1 ? "it comes" : "they come"} back for thirty days
      </summary>
      <ul className="mt-1">
        {entries.map(({ id, name, deletedAt, deletedBy }) => (
          <li key={id} className="py-0.5">
            {name}{" "}
            <span className="text-muted">
              {ago(deletedAt, now)} by {deletedBy}
            </span>{" "}
            <OnlyWith right="edit">
              <button type="button" className="slot" onClick={() => void back(id)}>
                take it back
              </button>
            </OnlyWith>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** Plates whose metric went away with a release, with what it probably became. */
function WentEmpty() {
  const carried = useCarried();
  const [repairing, setRepairing] = useState<Repair | null>(null);
  const { data } = useQuery({
    queryKey: ["empty plates"],
    queryFn: ({ signal }) => ask("GET /api/repairs/empty", {}, signal),
    staleTime: 20_000,
  });
  if (!data || data.plates.length === 0) return null;
  return (
    <section className="plate mt-3 border-l-4 border-l-warning px-4 py-3" aria-label="Plates that went empty">
      <h2 className="font-bold">◆ Went empty with a release</h2>
      <ul className="mt-1 text-[13px]">
        {data.plates.map(({ sheet, name, plate, metric, service, release, to }) => (
          <li key={sheet + plate + metric} className="py-0.5">
            <Link href={`/sheets/one${carried}${carried ? "&" : "?"}sheet=${sheet}`} className="slot">
              {name}
            </Link>
            , {plate}: {service} {release} has no <span className="num">{metric}</span>
            {to !== "" && (
              <>
                ; it probably became{" "}
                <button
                  type="button"
                  className="slot num"
                  onClick={() => setRepairing({ what: "metric", of: "", from: metric, to })}
                >
                  {to}
                </button>
              </>
            )}
          </li>
        ))}
      </ul>
      {repairing && <RepairDialog repair={repairing} onClose={() => setRepairing(null)} />}
    </section>
  );
}

/** All sheets: found by what they are called, what they are for, and what they read. */
export function SheetsPage() {
  const { data, error } = useSheets();
  const carried = useCarried();
  const now = useNow();
  const [find, setFind] = useState("");
  const [making, setMaking] = useState(false);
  const [importing, setImporting] = useState(false);
  const [problem, setProblem] = useState<unknown>(null);
  const there = useMemo(() => inOrder((data ?? []).filter(({ deletedAt }) => deletedAt === null)), [data]);
  const shown = there.filter((entry) => isFound(entry, find));
  const exportAll = async () => {
    try {
      const sheets: SheetFile["sheets"] = [];
      for (const { id } of shown)
        sheets.push({ id, sheet: (await ask("GET /api/sheets/{id}", { params: { id }, query: {} })).sheet });
      const { printSheetFile } = await import("@/core/sheet/file");
      saveFile("sheets.json", printSheetFile(sheets), "application/json");
    } catch (failed) {
      setProblem(failed);
    }
  };
  return (
    <>
      <header className="mb-3 flex flex-wrap items-end gap-x-4 gap-y-2">
        <h1 className="text-[24px] leading-none font-bold">Sheets</h1>
        <label className="ml-auto">
          <span className="sr-only">Find a sheet</span>
          <input
            className="input input-sm w-72"
            placeholder="name, purpose, tag, metric or attribute"
            value={find}
            onChange={(event) => setFind(event.target.value)}
          />
        </label>
        {there.length > 0 && (
          <button type="button" className="btn btn-sm border-base-300 bg-base-100" onClick={() => void exportAll()}>
            Export {find === "" ? "all" : shown.length}
          </button>
        )}
        <OnlyWith right="edit">
          <button type="button" className="btn btn-sm border-base-300 bg-base-100" onClick={() => setImporting(true)}>
            Import
          </button>
          <button type="button" className="btn btn-sm btn-primary" onClick={() => setMaking(true)}>
            New sheet
          </button>
        </OnlyWith>
      </header>
      {error && <ProblemNote error={error} />}
      {problem !== null && <ProblemNote error={problem} />}
      {data && (
        <section className="plate px-4 py-3">
          {there.length === 0 ? (
            <div className="py-2">
              <p className="font-bold">No sheet yet</p>
              <p className="mt-1 max-w-prose text-muted">
                A sheet keeps readings for a purpose and its readers: ask once, look every morning. Begin one here, or
                keep a reading that stands on Scratch with the key k.
              </p>
            </div>
          ) : shown.length === 0 ? (
            <p className="py-2 text-muted">No sheet has “{find}” in its name, purpose, tags or readings.</p>
          ) : (
            <Table
              label="Sheets"
              heads={[
                { name: "at hand", hidden: true },
                "sheet",
                { name: "for", wide: true },
                "tags",
                { name: "plates", right: true },
                "opened",
                { name: "looked at by", right: true },
                "saved",
                { name: "throw away", hidden: true },
              ]}
            >
              {shown.map((entry) => (
                <SheetRow
                  key={entry.id}
                  entry={entry}
                  now={now}
                  href={`/sheets/one${carried}${carried ? "&" : "?"}sheet=${entry.id}`}
                  problem={setProblem}
                />
              ))}
            </Table>
          )}
        </section>
      )}
      <ReadyOffers />
      <WentEmpty />
      <Thrown entries={(data ?? []).filter(({ deletedAt }) => deletedAt !== null)} now={now} />
      {importing && <ImportDialog onClose={() => setImporting(false)} />}
      {making && <NewSheet onClose={() => setMaking(false)} />}
    </>
  );
}
