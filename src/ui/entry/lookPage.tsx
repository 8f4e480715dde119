"use client";

import { useSearchParams } from "next/navigation";
import { useEffect, useRef, useState } from "react";
import Link from "../frame/link";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { Door, goOn } from "./door";

/** Signs in by the address that the demonstration's start printed. */
export function LookPage() {
  const link = useSearchParams().get("link") ?? "";
  const [problem, setProblem] = useState<unknown>(null);
  const asked = useRef(false);
  useEffect(() => {
    if (asked.current) return;
    asked.current = true;
    ask("POST /api/demonstration", { body: { link } }).then(() => goOn(null), setProblem);
  }, [link]);
  return (
    <Door title="Look around">
      {problem === null ? (
        <p className="mt-2">Signing you in as an owner of the demonstration…</p>
      ) : (
        <>
          <ProblemNote error={problem} />
          <p className="mt-3">
            <Link className="slot" href="/sign-in">
              choose an account
            </Link>
          </p>
        </>
      )}
    </Door>
  );
}
