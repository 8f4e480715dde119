"use client";

import { createContext, useContext } from "react";
import type { EditParts } from "./edit/parts";

/** What a sheet needs only while it is edited: it is loaded when somebody begins. */
const Shared = createContext<EditParts | null>(null);
export const EditScope = Shared.Provider;

/** Null where the sheet is read. */
export function useEditParts(): EditParts | null {
  return useContext(Shared);
}
