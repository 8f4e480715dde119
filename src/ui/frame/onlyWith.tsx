"use client";

import type { ReactNode } from "react";
import { type Right, roleFor } from "@/core/access/rights";
import { useMe } from "../query/me";

/**
 * What only some may do: for others it says whom to ask. The server refuses it anyway.
 *
 * @param what what is done there, such as "To publish"; where it is left out, nothing is said
 */
export function OnlyWith({ right, what, children }: { right: Right; what?: string; children: ReactNode }) {
  const { data } = useMe();
  if (!data) return null;
  if (data.rights.includes(right)) return <>{children}</>;
  const role = roleFor(right);
  return what === undefined ? null : (
    <p className="my-2 text-[13px] text-muted">
      {what}, ask {role === "editor" ? "an editor or an owner" : "an owner"}.
    </p>
  );
}
