"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import type { SavedSheetAnswer } from "@/core/api/sheets";
import { addBand, addPick, newPartId } from "@/core/sheet/edit";
import { printSheetFile } from "@/core/sheet/file";
import { unchanged } from "@/core/sheet/history";
import { EMPTY_SHEET, type Sheet } from "@/core/sheet/sheet";
import { needsIn } from "@/core/sheet/uses";
import { HoverScope } from "../chart/hover";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { saveFile } from "../frame/save";
import { singleKeysOn } from "../frame/singleKeys";
import { ago } from "../frame/times";
import { ask } from "../query/api";
import { useMay, useMe } from "../query/me";
import { useNow } from "../query/place";
import { useSheet } from "../query/sheets";
import { useSheetAddress } from "./address";
import { BandView } from "./bandView";
import { AddPlateDialog } from "./edit/addPlate";
import { CollisionView } from "./edit/collision";
import { type Begun, type Editing, useEditing } from "./edit/editing";
import { HeadEditor } from "./edit/headEditor";
import { BandGap, LandingScope } from "./edit/landing";
import { newPick, PickDialog } from "./edit/pickEditor";
import { SaveBar } from "./edit/saveBar";
import { Freshness } from "./freshness";
import { RepairDialog } from "./repairDialog";
import { SheetScope } from "./scope";
import { ShareDialog } from "./shareDialog";
import { PickSentence } from "./sheetHead";
import { useChosen } from "./useChosen";
import { type ChosenValue, ValueMenu } from "./valueMenu";
import { VersionsDialog } from "./versions";

/** A sheet by its address. */
export function SheetPage() {
  const [address] = useSheetAddress();
  const { data, error } = useSheet(address.sheet);
  const client = useQueryClient();
  const me = useMe().data;
  const mayEdit = useMay("edit");
  const id = address.sheet;
  useEffect(() => {
    if (id === null || me?.kind !== "account") return;
    // That it is not noted harms nobody.
    ask("POST /api/sheets/{id}/opened", { params: { id } })
      .then(() => client.invalidateQueries({ queryKey: ["sheets"] }))
      .catch(() => {});
  }, [id, me?.kind, client]);
  const draft = useQuery({
    queryKey: ["sheet draft", id],
    queryFn: ({ signal }) => ask("GET /api/sheets/{id}/draft", { params: { id: id! } }, signal),
    enabled: id !== null && mayEdit && me?.kind === "account",
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (id === null)
    return (
      <p>
        No sheet is named in the address.{" "}
        <Link href="/sheets" className="slot">
          All sheets
        </Link>
      </p>
    );
  if (error && !data) return <ProblemNote error={error} />;
  if (!data) return <p className="text-muted">Opening the sheet…</p>;
  return (
    <HoverScope>
      <OpenSheet key={id} saved={data} begun={draft.data?.draft ?? null} mayEdit={mayEdit && me?.kind === "account"} />
    </HoverScope>
  );
}

/** A sheet that is read, until somebody changes it. */
function OpenSheet({ saved, begun, mayEdit }: { saved: SavedSheetAnswer; begun: Begun | null; mayEdit: boolean }) {
  const [editing, setEditing] = useState<Begun | null>(null);
  const begin = useCallback(() => {
    setEditing(begun ?? { based: saved.version, state: unchanged(saved.sheet), at: null });
  }, [begun, saved]);
  useEffect(() => {
    if (!mayEdit || editing) return;
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.key !== "e" || event.ctrlKey || event.metaKey || !singleKeysOn()) return;
      if (target.isContentEditable || ["INPUT", "TEXTAREA"].includes(target.tagName)) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      begin();
    };
    window.addEventListener("keydown", press, true);
    return () => window.removeEventListener("keydown", press, true);
  }, [mayEdit, editing, begin]);
  if (editing) return <EditedSheet saved={saved} begun={editing} onEnd={() => setEditing(null)} />;
  return (
    <ShownSheet saved={saved} sheet={saved.sheet} editing={null} onEdit={mayEdit ? begin : null} drafted={begun} />
  );
}

function EditedSheet({ saved, begun, onEnd }: { saved: SavedSheetAnswer; begun: Begun; onEnd: () => void }) {
  const editing = useEditing(saved.id, begun, onEnd);
  const { undo, redo } = editing;
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      // In a field the browser undoes what was typed there.
      if (target.isContentEditable || ["INPUT", "TEXTAREA"].includes(target.tagName)) return;
      if (!(event.ctrlKey || event.metaKey)) return;
      const key = event.key.toLowerCase();
      if (key !== "z" && key !== "y") return;
      event.preventDefault();
      if (key === "y" || event.shiftKey) redo();
      else undo();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [undo, redo]);
  return <ShownSheet saved={saved} sheet={editing.sheet} editing={editing} onEdit={null} drafted={null} />;
}

function ShownSheet({
  saved,
  sheet,
  editing,
  onEdit,
  drafted,
}: {
  saved: SavedSheetAnswer;
  sheet: Sheet;
  editing: Editing | null;
  onEdit: (() => void) | null;
  drafted: Begun | null;
}) {
  const [address, change] = useSheetAddress();
  const carried = useCarried();
  const now = useNow();
  const client = useQueryClient();
  const { chosen, unknown } = useChosen(sheet, address.picks, null);
  const [open, setOpen] = useState<string | null>(null);
  const [adding, setAdding] = useState<string | null>(null);
  const [picking, setPicking] = useState(false);
  const [versions, setVersions] = useState(false);
  const [sharing, setSharing] = useState(false);
  const [repairing, setRepairing] = useState<{ from: string; to: string } | null>(null);
  const [value, setValue] = useState<ChosenValue | null>(null);
  const { holds, against } = address;
  const scope = useMemo(
    () => ({
      picks: chosen,
      unknown,
      holds,
      against,
      link: null,
      onRepair: (from: string, to: string) => setRepairing({ from, to }),
      onValue: (labels: ChosenValue["labels"], at: ChosenValue["at"], text: string) => setValue({ labels, at, text }),
    }),
    [chosen, unknown, holds, against],
  );
  const scratch = useCallback(
    (text: string) => {
      const picks = new URLSearchParams();
      for (const [name, values] of Object.entries(chosen)) for (const one of values) picks.append(`pick.${name}`, one);
      return `/scratch${carried}${carried ? "&" : "?"}reading=${encodeURIComponent(text)}${picks.size > 0 ? `&${picks}` : ""}`;
    },
    [carried, chosen],
  );
  const makePick = (attribute: string, preset: string) => {
    const metric = value ? (needsIn(value.text)[0]?.metric ?? "") : "";
    editing?.change("make a pick", addPick(newPick(sheet.picks, attribute, metric, [preset])));
    setPicking(true);
  };
  const closeValue = useCallback(() => setValue(null), []);
  const star = async () => {
    await ask("PUT /api/sheets/{id}/star", { params: { id: saved.id }, body: { starred: !saved.starred } });
    await client.invalidateQueries({ queryKey: ["sheet", saved.id] });
    await client.invalidateQueries({ queryKey: ["sheets"] });
  };
  const bands = (dragged: Parameters<Parameters<typeof LandingScope>[0]["children"]>[0]) =>
    sheet.bands.map((band, place) => (
      <div key={band.id}>
        {editing && <BandGap at={place} dragged={dragged} />}
        <BandView
          sheet={sheet}
          band={band}
          place={place}
          editing={editing}
          dragged={dragged}
          open={open}
          onOpen={setOpen}
          onAdd={setAdding}
          scratch={scratch}
        />
      </div>
    ));
  return (
    <SheetScope value={scope}>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-[24px] leading-none font-bold">{sheet.name || "Without a name"}</h1>
        <p className="text-muted">
          {sheet.purpose}
          {sheet.purpose && ", "}
          saved {ago(saved.at, now)} by {saved.who}
        </p>
        <p className="ml-auto flex gap-3">
          <button type="button" className="slot" aria-pressed={saved.starred} onClick={() => void star()}>
            {saved.starred ? "★ at hand" : "☆ keep at hand"}
          </button>
          <button type="button" className="slot" onClick={() => setVersions(true)}>
            version {saved.version}
          </button>
          <button
            type="button"
            className="slot"
            onClick={() =>
              saveFile(`${saved.id}.json`, printSheetFile([{ id: saved.id, sheet: saved.sheet }]), "application/json")
            }
          >
            export
          </button>
          <OnlyWith right="edit">
            <button type="button" className="slot" onClick={() => setSharing(true)}>
              share
            </button>
          </OnlyWith>
          <button type="button" className="slot" onClick={() => window.print()}>
            print
          </button>
          <button type="button" className="slot" onClick={() => change.wall(!address.wall)}>
            {address.wall ? "leave full screen" : "full screen"}
          </button>
          {onEdit && (
            <button type="button" className="btn btn-sm border-base-300 bg-base-100" onClick={onEdit}>
              Edit
            </button>
          )}
        </p>
      </header>
      <Freshness />
      {drafted && onEdit && (
        <p className="mt-2 text-warning">
          ◆ You changed this sheet {ago(drafted.at, now)} and have not saved it.{" "}
          <button type="button" className="slot" onClick={onEdit}>
            Go on
          </button>
        </p>
      )}
      {editing && (
        <div className="mt-2">
          <SaveBar editing={editing} />
          {editing.collision && <CollisionView collision={editing.collision} mine={sheet} onSettle={editing.settle} />}
          <HeadEditor editing={editing} />
        </div>
      )}
      <PickSentence sheet={sheet} chosen={chosen} address={address} change={change}>
        {editing && (
          <>
            {" "}
            <button type="button" className="btn btn-xs ml-2" onClick={() => setPicking(true)}>
              {sheet.picks.length === 0 ? "Add a pick" : "Change the picks"}
            </button>
          </>
        )}
      </PickSentence>
      {editing ? (
        <LandingScope editing={editing}>
          {(dragged) => (
            <>
              {bands(dragged)}
              <BandGap at={sheet.bands.length} dragged={dragged} />
            </>
          )}
        </LandingScope>
      ) : (
        bands(null)
      )}
      {editing && (
        <button
          type="button"
          className="btn btn-sm mt-4"
          onClick={() =>
            editing.change(
              "add a band",
              addBand({ id: newPartId(), title: "", folded: false, plates: [] }, sheet.bands.length),
            )
          }
        >
          Add a band
        </button>
      )}
      {sheet.bands.length === 0 && !editing && (
        <div className="plate mt-4 p-4">
          <p className="font-bold">Nothing stands on this sheet yet</p>
          <p className="mt-1 text-muted">
            {onEdit
              ? "Edit it to add a band and its plates, or keep a reading here from Scratch with the key k."
              : "Somebody who may edit can put plates here."}
          </p>
        </div>
      )}
      {adding && editing && (
        <AddPlateDialog
          editing={editing}
          band={adding}
          onAdded={(plate) => {
            setAdding(null);
            setOpen(plate);
          }}
          onClose={() => setAdding(null)}
        />
      )}
      {editing && <PickDialog editing={editing} chosen={chosen} open={picking} onClose={() => setPicking(false)} />}
      {repairing && <RepairDialog {...repairing} onClose={() => setRepairing(null)} />}
      {sharing && <ShareDialog id={saved.id} onClose={() => setSharing(false)} />}
      {versions && (
        <VersionsDialog
          id={saved.id}
          current={{ version: saved.version, sheet: saved.sheet }}
          onRestore={
            editing
              ? (earlier, version) => {
                  editing.change(`go back to version ${version}`, (draft) => {
                    Object.assign(draft, { ...EMPTY_SHEET, ...earlier });
                  });
                  setVersions(false);
                }
              : undefined
          }
          onClose={() => setVersions(false)}
        />
      )}
      {value && (
        <ValueMenu
          chosen={value}
          onHold={(hold) => change.hold(hold, true)}
          onPick={editing ? makePick : undefined}
          scratch={scratch(value.text)}
          onClose={closeValue}
        />
      )}
    </SheetScope>
  );
}
