"use client";

import type { ReadingResult } from "@/core/reading/result";

/** Why a plate shows nothing: what the answer says of it. */
export function NothingToShow({ result, text }: { result: ReadingResult; text: string }) {
  return (
    <div className="py-4">
      <p className="font-bold">Nothing to show</p>
      <ul className="mt-1 text-[13px] text-warning">
        {result.warnings.map(({ code, message }) => (
          <li key={code + message}>◆ {message}</li>
        ))}
      </ul>
      {result.warnings.length === 0 && <p className="num text-[12.5px] text-muted">{text}</p>}
    </div>
  );
}
