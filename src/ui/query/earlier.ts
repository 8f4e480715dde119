"use client";

import { parseAsString, useQueryState } from "nuqs";
import { useCallback, useMemo } from "react";
import { type Earlier, earlierIn } from "@/core/window/earlier";

/** The earlier window in the address, if there is one, and how it is chosen; "" takes it out. */
export function useEarlier(): [Earlier | null, (value: string) => void] {
  const [text, setText] = useQueryState("against", parseAsString.withOptions({ history: "push" }));
  const earlier = useMemo(() => earlierIn(text), [text]);
  const choose = useCallback((value: string) => void setText(value === "" ? null : value), [setText]);
  return [earlier, choose];
}
