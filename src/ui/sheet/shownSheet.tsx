"use client";

import { useQueryClient } from "@tanstack/react-query";
import dynamic from "next/dynamic";
import { useState } from "react";
import type { SavedSheetAnswer } from "@/core/api/sheets";
import { EMPTY_SHEET } from "@/core/sheet/empty";
import type { Repair } from "@/core/sheet/repair";
import type { Sheet } from "@/core/sheet/sheet";
import { Ago } from "../frame/ago";
import { OnlyWith } from "../frame/onlyWith";
import { saveFile } from "../frame/save";
import { ask } from "../query/api";
import { BandView } from "./bandView";
import { RepairDialog } from "./dialogs/repairDialog";
import { ShareDialog } from "./dialogs/shareDialog";
import type { Begun, Editing } from "./edit/editing";
import type { Dragged } from "./edit/landing";
import { useEditParts } from "./editScope";
import { Freshness } from "./freshness";
import { SheetScope } from "./scope";
import { PickSentence } from "./sheetHead";
import { type MakePick, useSheetReading } from "./sheetReading";

const VersionsDialog = dynamic(() => import("./versions").then((module) => module.VersionsDialog));

async function exportSheet({ id, sheet }: SavedSheetAnswer): Promise<void> {
  const { printSheetFile } = await import("@/core/sheet/file");
  saveFile(`${id}.json`, printSheetFile([{ id, sheet }]), "application/json");
}

/** A sheet as it stands on the page: to be read, or, with what loads for that, to be changed. */
export function ShownSheet({
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
  const parts = useEditParts();
  const client = useQueryClient();
  const [open, setOpen] = useState<string | null>(null);
  const [adding, setAdding] = useState<string | null>(null);
  const [picking, setPicking] = useState(false);
  const [versions, setVersions] = useState(false);
  const [sharing, setSharing] = useState(false);
  const [repairing, setRepairing] = useState<Repair | null>(null);
  const { address, change, chosen, scope, scratch, menu } = useSheetReading(sheet, setRepairing);
  const makePick: MakePick = (attribute, preset, text) => {
    if (editing) parts?.makePick(editing, attribute, preset, text);
    setPicking(true);
  };
  const star = async () => {
    await ask("PUT /api/sheets/{id}/star", { params: { id: saved.id }, body: { starred: !saved.starred } });
    await client.invalidateQueries({ queryKey: ["sheet", saved.id] });
    await client.invalidateQueries({ queryKey: ["sheets"] });
  };
  const bands = (dragged: Dragged | null) =>
    sheet.bands.map((band, place) => (
      <div key={band.id}>
        {parts && <parts.BandGap at={place} dragged={dragged} />}
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
          saved <Ago at={saved.at} /> by {saved.who}
        </p>
        <p className="ml-auto flex gap-3 print:hidden">
          <button type="button" className="slot" aria-pressed={saved.starred} onClick={() => void star()}>
            {saved.starred ? "★ at hand" : "☆ keep at hand"}
          </button>
          <button type="button" className="slot" onClick={() => setVersions(true)}>
            version {saved.version}
          </button>
          <button type="button" className="slot" onClick={() => void exportSheet(saved)}>
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
          ◆ You changed this sheet <Ago at={drafted.at} /> and have not saved it.{" "}
          <button type="button" className="slot" onClick={onEdit}>
            Go on
          </button>
        </p>
      )}
      {editing && parts && (
        <div className="mt-2">
          <parts.SaveBar editing={editing} />
          {editing.collision && (
            <parts.CollisionView collision={editing.collision} mine={sheet} onSettle={editing.settle} />
          )}
          <parts.HeadEditor editing={editing} />
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
      {editing && parts ? (
        <parts.LandingScope editing={editing}>
          {(dragged) => (
            <>
              {bands(dragged)}
              <parts.BandGap at={sheet.bands.length} dragged={dragged} />
            </>
          )}
        </parts.LandingScope>
      ) : (
        bands(null)
      )}
      {editing && (
        <button type="button" className="btn btn-sm mt-4" onClick={() => parts?.addEmptyBand(editing)}>
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
      {adding && editing && parts && (
        <parts.AddPlateDialog
          editing={editing}
          band={adding}
          onAdded={(plate) => {
            setAdding(null);
            setOpen(plate);
          }}
          onClose={() => setAdding(null)}
        />
      )}
      {editing && parts && (
        <parts.PickDialog editing={editing} chosen={chosen} open={picking} onClose={() => setPicking(false)} />
      )}
      {repairing && <RepairDialog repair={repairing} onClose={() => setRepairing(null)} />}
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
      {menu(editing ? makePick : undefined)}
    </SheetScope>
  );
}
