"use client";

import { useState } from "react";
import type { PipelineConfig } from "@/core/pipeline/config";
import { ask } from "../query/api";

/** The pipeline as a file: to be reviewed, kept, and put back as a draft. */
export function PipelineFile({ version, onDraft }: { version: number; onDraft: (config: PipelineConfig) => void }) {
  const [problem, setProblem] = useState("");
  const take = async (file: File | undefined) => {
    if (!file) return;
    try {
      const { config } = await ask("POST /api/pipeline/file", { body: await file.text() });
      setProblem("");
      onDraft(config);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <p className="mt-3 flex flex-wrap items-baseline gap-x-3 text-[13px]">
      <span>
        The {version === 0 ? "pipeline" : `live version ${version}`} as{" "}
        <a className="slot" href="/api/pipeline/file">
          YAML
        </a>{" "}
        or{" "}
        <a className="slot" href="/api/pipeline/file?format=json">
          JSON
        </a>
      </span>
      <label>
        a file as a draft:{" "}
        <input
          type="file"
          className="file-input file-input-xs"
          accept=".yaml,.yml,.json"
          onChange={(event) => {
            void take(event.target.files?.[0]);
            event.target.value = "";
          }}
        />
      </label>
      {problem !== "" && (
        <span role="alert" className="text-error">
          ✕ {problem}
        </span>
      )}
    </p>
  );
}
