import type { InstrumentAnswer } from "@/core/api/instruments";
import { type Use, usesOf } from "@/core/draft/uses";
import { kindOf } from "@/core/pipeline/steps";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { usePipeline } from "../query/pipeline";

/** Who would notice if an instrument went or changed. */

const HOW_WORDS: Record<Use["how"], string> = {
  reads: "is worked out from it",
  makes: "gives it",
  "may change": "takes it",
};

export function UsedBy({ data, define }: { data: InstrumentAnswer; define: string }) {
  const carried = useCarried();
  const pipeline = usePipeline();
  const [first] = data.variants;
  const uses = pipeline.data ? usesOf(pipeline.data.live.config, { name: data.name, unit: first?.unit ?? "" }) : [];
  if (!data.contract && uses.length === 0) return null;
  return (
    <p className="text-[13px]">
      <span className="text-muted">In use:</span>{" "}
      {data.contract && (
        <Link className="slot" href={define}>
          contract {data.contract.version}
        </Link>
      )}
      {uses.map(({ step, place, how }, i) => (
        <span key={step.id}>
          {(data.contract || i > 0) && ", "}
          <Link className="slot" href={`/pipeline${carried}`}>
            step {place} of the pipeline
          </Link>{" "}
          ({kindOf(step).name}) {HOW_WORDS[how]}
          {how === "may change" && step.where !== "" && (
            <>
              {" "}
              where <span className="num">{step.where}</span>
            </>
          )}
        </span>
      ))}
    </p>
  );
}
