"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Dialog } from "../frame/dialog";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";

/** Contracts as a file: out for review in a repository, and in again. */
export function ContractFiles() {
  const client = useQueryClient();
  const picker = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState<string | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const take = async (file: File) => {
    try {
      const { saved, same } = await ask("POST /api/contracts/file", { body: await file.text() });
      setProblem(null);
      setSaid(`${saved.length} saved as new versions, ${same} said the same already.`);
      await client.invalidateQueries({ queryKey: ["instruments"] });
      await client.invalidateQueries({ queryKey: ["catalogue"] });
    } catch (error) {
      setSaid(null);
      setProblem(error);
    }
  };
  const close = () => {
    setSaid(null);
    setProblem(null);
  };
  return (
    <>
      <span className="text-muted">
        contracts as{" "}
        <a className="slot" href="/api/contracts/file" download>
          YAML
        </a>
        ,{" "}
        <a className="slot" href="/api/contracts/file?format=json" download>
          JSON
        </a>
        <OnlyWith right="edit">
          ,{" "}
          <button type="button" className="slot" onClick={() => picker.current?.click()}>
            from a file
          </button>
        </OnlyWith>
      </span>
      <input
        ref={picker}
        type="file"
        accept=".yaml,.yml,.json"
        aria-label="A file of contracts"
        className="hidden"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) void take(file);
          event.target.value = "";
        }}
      />
      <Dialog title="Contracts from a file" open={said !== null || problem !== null} onClose={close}>
        {said !== null && <p role="status">{said}</p>}
        {problem !== null && <ProblemNote error={problem} />}
        <div className="mt-3 flex justify-end">
          <button type="button" className="btn btn-sm" onClick={close}>
            Good
          </button>
        </div>
      </Dialog>
    </>
  );
}
