"use client";

import { useState } from "react";
import type { ComparisonAnswer } from "@/core/api/comparison";
import { reportOf } from "@/core/release/report";
import { copyText } from "../frame/copy";
import { ProblemNote } from "../frame/problemNote";
import { saveFile } from "../frame/save";

/** To copy the report, save it, and keep the figures under an address of their own. */
export function Report({ answer, onKeep }: { answer: ComparisonAnswer; onKeep: (() => Promise<string>) | null }) {
  const [said, say] = useState("");
  const [problem, setProblem] = useState<unknown>(null);
  const name = `${answer.candidate.service}-${answer.candidate.release}`.replace(/[^\w.-]+/g, "-");
  const tell = (text: string) => {
    say(text);
    setTimeout(() => say(""), 4000);
  };
  const copy = () =>
    copyText(reportOf(answer, window.location.href)).then((copied) =>
      tell(copied ? "copied as Markdown" : "this browser does not let pages copy; save it instead"),
    );
  const keep = async () => {
    try {
      const address = await onKeep!();
      const copied = await copyText(address);
      tell(`kept; its address${copied ? " is copied" : ""}: ${address}`);
    } catch (error) {
      setProblem(error);
    }
  };
  const ways: [string, () => void][] = [
    ["copy", () => void copy()],
    ["Markdown", () => saveFile(`${name}.md`, reportOf(answer, window.location.href))],
    ["JSON", () => saveFile(`${name}.json`, JSON.stringify(answer, null, 2), "application/json")],
    ["print", () => window.print()],
    ...(onKeep ? [["keep its figures", () => void keep()] satisfies [string, () => void]] : []),
  ];
  return (
    <p className="text-[12.5px] text-muted print:hidden">
      Report:{" "}
      {ways.map(([way, act], i) => (
        <span key={way}>
          {i > 0 && ", "}
          <button type="button" className="slot" onClick={act}>
            {way}
          </button>
        </span>
      ))}{" "}
      <span role="status">{said}</span>
      {problem !== null && <ProblemNote error={problem} />}
    </p>
  );
}
