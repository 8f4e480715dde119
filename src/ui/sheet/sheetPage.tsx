"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import type { SavedSheetAnswer } from "@/core/api/sheets";
import Link from "../frame/link";
import { ProblemNote } from "../frame/problemNote";
import { singleKeysOn } from "../frame/singleKeys";
import { ask } from "../query/api";
import { asking } from "../query/asking";
import { useMay, useMe } from "../query/me";
import { sheetDraftQuestion } from "../query/questions";
import { useSheet } from "../query/sheets";
import { useSheetAddress } from "./address";
import type { Begun } from "./edit/editing";
import { ShownSheet } from "./shownSheet";

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
    ...asking(sheetDraftQuestion(id ?? "none")),
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
    <OpenSheet key={id} saved={data} begun={draft.data?.draft ?? null} mayEdit={mayEdit && me?.kind === "account"} />
  );
}

type Editor = typeof import("./edit/editedSheet");
const loadEditor = (): Promise<Editor> => import("./edit/editedSheet");
/** After this long the page has most of what it shows, ms. */
const IDLE = 2500;

/** A sheet that is read, until somebody changes it. */
function OpenSheet({ saved, begun, mayEdit }: { saved: SavedSheetAnswer; begun: Begun | null; mayEdit: boolean }) {
  /** What the changes go on from; null: the sheet as it was saved. */
  const [editing, setEditing] = useState<{ begun: Begun | null } | null>(null);
  const [editor, setEditor] = useState<Editor | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const begin = useCallback(() => {
    setEditing({ begun });
    loadEditor()
      .then(setEditor)
      .catch((failed) => {
        setEditing(null);
        setProblem(failed);
      });
  }, [begun]);
  useEffect(() => {
    // It is at hand when somebody begins, and in nobody's way before.
    const timer = mayEdit ? setTimeout(() => void loadEditor().catch(() => {}), IDLE) : undefined;
    return () => clearTimeout(timer);
  }, [mayEdit]);
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
  if (editing && editor)
    return <editor.EditedSheet saved={saved} begun={editing.begun} onEnd={() => setEditing(null)} />;
  return (
    <>
      {problem !== null && <ProblemNote error={problem} />}
      <ShownSheet saved={saved} sheet={saved.sheet} editing={null} onEdit={mayEdit ? begin : null} drafted={begun} />
    </>
  );
}
