"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { addBand, addPlate, newPartId, withChange } from "@/core/sheet/edit";
import { EMPTY_SHEET } from "@/core/sheet/empty";
import { proposedLook } from "@/core/sheet/propose";
import { plate as plateSchema, type Sheet } from "@/core/sheet/sheet";
import { Dialog } from "../../frame/dialog";
import type { InHand } from "../../frame/inHand";
import Link from "../../frame/link";
import { useCarried } from "../../frame/navigation";
import { OnlyWith } from "../../frame/onlyWith";
import { ProblemNote } from "../../frame/problemNote";
import { ask } from "../../query/api";
import { useSheets } from "../../query/sheets";
import { Slot } from "../../sentence/slot";

const NEW = "\u0000new";

/** A sheet with one more plate: in its last band, or in one of its own. */
function withPlate(sheet: Sheet, { text }: InHand, title: string): Sheet {
  const plate = plateSchema.parse({
    id: newPartId(),
    title,
    holds: "readings",
    readings: [{ text }],
    look: proposedLook(text),
  });
  const last = sheet.bands.at(-1);
  if (last) return withChange(sheet, addPlate(plate, last.id, last.plates.length));
  return withChange(sheet, addBand({ id: newPartId(), title: "", folded: false, plates: [plate] }, 0));
}

/** Keeps a reading on a sheet: one that there is, or a new one. */
export function KeepDialog({ what, onClose }: { what: InHand; onClose: () => void }) {
  const client = useQueryClient();
  const carried = useCarried();
  const { data: found, isPending } = useSheets();
  const sheets = (found ?? []).filter(({ deletedAt }) => deletedAt === null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [title, setTitle] = useState(what.title);
  const [name, setName] = useState("");
  const [problem, setProblem] = useState<unknown>(null);
  const [kept, setKept] = useState<{ id: string; name: string } | null>(null);
  const order = [...sheets].sort((a, b) => (b.openedAt ?? 0) - (a.openedAt ?? 0));
  const id = chosen ?? order[0]?.id ?? NEW;
  const keep = async () => {
    try {
      const note = `kept ${title.trim() || what.text}`.slice(0, 500);
      if (id === NEW) {
        const sheet = withPlate({ ...EMPTY_SHEET, name: name.trim() }, what, title.trim());
        const made = await ask("POST /api/sheets", { body: { sheet, note } });
        setKept({ id: made.id, name: name.trim() });
      } else {
        const now = await ask("GET /api/sheets/{id}", { params: { id }, query: {} });
        const sheet = withPlate(now.sheet, what, title.trim());
        await ask("PUT /api/sheets/{id}", { params: { id }, body: { sheet, note, based: now.version } });
        setKept({ id, name: now.sheet.name });
      }
      await client.invalidateQueries({ queryKey: ["sheets"] });
      await client.invalidateQueries({ queryKey: ["sheet", id] });
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <Dialog title="Keep on a sheet" open onClose={onClose}>
      <h2 className="text-base font-bold">Keep on a sheet</h2>
      <p className="num mt-1 text-[12.5px] break-words text-muted">{what.text}</p>
      {kept ? (
        <p className="mt-3">
          ✓ It stands on{" "}
          <Link href={`/sheets/one${carried}${carried ? "&" : "?"}sheet=${kept.id}`} className="slot" onClick={onClose}>
            {kept.name}
          </Link>
        </p>
      ) : (
        <OnlyWith right="edit" what="To keep readings on sheets">
          <form
            onSubmit={(event) => {
              event.preventDefault();
              void keep();
            }}
          >
            <label className="mt-3 block">
              <span className="block text-[12.5px] text-muted">its title there</span>
              <input
                className="input input-sm w-full"
                value={title}
                maxLength={120}
                onChange={(event) => setTitle(event.target.value)}
              />
            </label>
            <p className="mt-3">
              on{" "}
              {isPending ? (
                // Nothing moves below the pointer when the sheets come.
                <span role="status" aria-label="Reading…" className="skeleton-bar inline-block h-4 w-40 align-middle" />
              ) : (
                <Slot
                  name="the sheet"
                  options={[
                    ...order.map((one) => ({ value: one.id, label: one.name, note: one.purpose.slice(0, 30) })),
                    { value: NEW, label: "a new sheet" },
                  ]}
                  onChoose={setChosen}
                >
                  {id === NEW ? "a new sheet" : (sheets.find((one) => one.id === id)?.name ?? id)}
                </Slot>
              )}
            </p>
            {id === NEW && !isPending && (
              <label className="mt-3 block">
                <span className="block text-[12.5px] text-muted">the name of the sheet</span>
                <input
                  className="input input-sm w-full"
                  value={name}
                  maxLength={120}
                  onChange={(event) => setName(event.target.value)}
                />
              </label>
            )}
            {problem !== null && <ProblemNote error={problem} />}
            <button
              type="submit"
              className="btn btn-primary btn-sm mt-4"
              disabled={isPending || (id === NEW && name.trim() === "")}
            >
              Keep it
            </button>
          </form>
        </OnlyWith>
      )}
    </Dialog>
  );
}
