"use client";

import { AddPlateDialog } from "./addPlate";
import { BandBar } from "./bandBar";
import { addEmptyBand, makePick } from "./changes";
import { CollisionView } from "./collision";
import { EditBar } from "./editBar";
import { HeadEditor } from "./headEditor";
import { BandGap, LandingScope, PlateGap } from "./landing";
import { PickDialog } from "./pickEditor";
import { PlateEditor } from "./plateEditor";
import { SaveBar } from "./saveBar";

/** What stands on a sheet only while it is edited. */
export const EDIT_PARTS = {
  AddPlateDialog,
  BandBar,
  BandGap,
  CollisionView,
  EditBar,
  HeadEditor,
  LandingScope,
  PickDialog,
  PlateEditor,
  PlateGap,
  SaveBar,
  addEmptyBand,
  makePick,
};
export type EditParts = typeof EDIT_PARTS;
