import type { ComponentType } from "react";
import type { Overview } from "@/core/api/releases";

/** A way for points to come in: a card to choose, and what it shows, up to the first point that does. */
export interface Way {
  key: string;
  title: string;
  says: string;
  Shown: ComponentType<WayProps>;
}

export interface WayProps {
  overview: Overview | undefined;
}
