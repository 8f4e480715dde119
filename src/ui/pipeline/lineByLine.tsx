import { useMemo, useState } from "react";
import type { PipelineVersionEntry } from "@/core/api/pipeline";
import { differingLines, type Line } from "@/core/draft/lines";
import type { PipelineConfig } from "@/core/pipeline/config";
import { EMPTY_PIPELINE } from "@/core/pipeline/config";
import { Slot } from "../sentence/slot";
import type { SlotOption } from "../sentence/slotOptions";

/** Two versions of the pipeline, or one and the draft, line by line. */

const DRAFT = "draft";
const SIGNS = { first: "−", second: "+", both: " " };
const COLOURS = { first: "text-error", second: "text-primary", both: "text-muted" };

function Stretch({ lines }: { lines: readonly Line[] }) {
  return (
    <pre className="num overflow-x-auto border-l-2 border-base-300 pl-2 text-[12px] leading-snug">
      {lines.map((line, i) => (
        <div key={`${i} ${line.text}`} className={COLOURS[line.in]}>
          {SIGNS[line.in]} {line.text}
        </div>
      ))}
    </pre>
  );
}

export function LineByLine({
  versions,
  draft,
}: {
  /** Newest first. */
  versions: readonly PipelineVersionEntry[];
  draft: PipelineConfig | null;
}) {
  const [shown, setShown] = useState(false);
  const [chosen, setChosen] = useState<{ from?: string; to?: string }>({});
  const known = new Map<string, { name: string; config: PipelineConfig }>([
    ...(draft ? [[DRAFT, { name: "the draft", config: draft }] as const] : []),
    ...versions.map((one) => [String(one.id), { name: `version ${one.id}`, config: one.config }] as const),
    ["0", { name: "no pipeline at all", config: EMPTY_PIPELINE }],
  ]);
  const ids = [...known.keys()];
  const of = (id: string | undefined, usual: number) => (id !== undefined && known.has(id) ? id : ids[usual]);
  const [from, to] = [of(chosen.from, 1), of(chosen.to, 0)];
  const [first, second] = [known.get(from)!, known.get(to)!];
  const lines = useMemo(
    () => (shown ? differingLines(first.config, second.config) : []),
    [shown, first.config, second.config],
  );
  const options: SlotOption[] = [...known].map(([value, { name }]) => ({
    value,
    label: name,
    note: versions.find(({ id }) => String(id) === value)?.note.slice(0, 40),
  }));
  return (
    <div className="mt-2 text-[13px]">
      <p>
        <button type="button" className="slot" aria-expanded={shown} onClick={() => setShown(!shown)}>
          {shown ? "hide" : "show"}
        </button>{" "}
        line by line what changes from{" "}
        <Slot
          name="first version"
          options={options}
          onChoose={(id) => {
            setChosen({ ...chosen, from: id });
            setShown(true);
          }}
        >
          {first.name}
        </Slot>{" "}
        to{" "}
        <Slot
          name="second version"
          options={options}
          onChoose={(id) => {
            setChosen({ ...chosen, to: id });
            setShown(true);
          }}
        >
          {second.name}
        </Slot>
      </p>
      {shown && lines.length === 0 && <p className="text-muted">Nothing: they say the same.</p>}
      <div className="space-y-2">
        {lines.map((stretch, i) => (
          <Stretch key={i} lines={stretch} />
        ))}
      </div>
    </div>
  );
}
