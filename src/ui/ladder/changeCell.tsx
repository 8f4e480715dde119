import type { LadderAnswer } from "@/core/api/releases";
import type { Change } from "@/core/reading/change";
import type { Rung } from "@/core/reading/ladder";
import { FAILURE_WORDS, LATENCY_WORDS } from "@/core/release/says";
import { digits } from "@/core/unit/format";
import Link from "../frame/link";
import { shortName } from "../frame/names";
import { duration } from "../frame/times";

/** How a release does against another one, with its verdicts. */

/** Characters of a release that there is room for. */
const MAX_RELEASE = 18;

function Sign({ value }: { value: number }) {
  return <span aria-hidden="true">{value > 0 ? "▲" : value < 0 ? "▼" : "▬"}</span>;
}

function signed(value: number, text: string): string {
  return `${value > 0 ? "+" : value < 0 ? "−" : "±"}${text}`;
}

type RungChange = NonNullable<LadderAnswer["rungs"][number]["change"]>;
type Judged = NonNullable<RungChange["latency"]>;

const WORDS = { latency: LATENCY_WORDS, failures: FAILURE_WORDS };
/** Nobody waits for so many times the calls: what is missing is minutes, which long steps put together. */
const MANY = 50;
const TONES: Record<Judged["verdict"], string> = {
  worse: "font-bold text-error",
  better: "font-bold text-success",
  same: "font-bold",
  "not enough yet": "text-muted",
};

/** The bounds of a change in words, and what would settle it. */
function whyJudged({ low, high, verdict, times, tooWide }: Judged, unit: string): string {
  const bound = (value: number | null) =>
    value === null ? null : `${value < 0 ? "−" : "+"}${digits(Math.abs(value) * 100)}`;
  const reach = `between ${bound(low) ?? "anything less"} and ${bound(high) ?? "anything more"} ${unit}`;
  if (verdict !== "not enough yet") return reach;
  if (tooWide) return `${reach}; the buckets are too wide to tell, whatever the number of calls`;
  if (times === null) return reach;
  if (times > MANY) return `${reach}; a window around this release, with shorter steps, tells more`;
  return `${reach}; ${digits(times)} times as many calls would tell`;
}

function Verdict({ of, judged, unit }: { of: "latency" | "failures"; judged: Judged | null; unit: string }) {
  if (!judged) return null;
  const why = whyJudged(judged, unit);
  return (
    <p className={TONES[judged.verdict]} title={why}>
      {judged.verdict === "worse" ? "✕ " : judged.verdict === "better" ? "✓ " : ""}
      {WORDS[of][judged.verdict]}
      <span className="sr-only">, {why}</span>
    </p>
  );
}

export function ChangeCell({
  change,
  judged,
  before,
  address,
}: {
  change: Change | null;
  judged: RungChange | null;
  before: Rung | undefined;
  /** Where the two are compared. */
  address: string | null;
}) {
  if (!before || !change) return <p className="text-muted">the first in this window</p>;
  return (
    <>
      {change.p95 !== null && (
        <p>
          <Sign value={change.p95} /> p95{" "}
          <b className="num">{signed(change.p95, `${digits(Math.abs(change.p95) * 100)} %`)}</b>
          {change.p95Open && change.p95 !== 0 && <span className="text-muted"> same bucket</span>}
        </p>
      )}
      {judged && <Verdict of="latency" judged={judged.latency} unit="%" />}
      {change.errors !== null && (
        <p>
          <Sign value={change.errors} /> errors{" "}
          <b className="num">{signed(change.errors, digits(Math.abs(change.errors) * 100))}</b> points
        </p>
      )}
      {judged && <Verdict of="failures" judged={judged.failures} unit="points" />}
      <p className="text-[11.5px] text-muted">
        against <span className="num">{shortName(before.release ?? "no release", MAX_RELEASE)}</span>
        {judged && `, ${duration(judged.time)} ${judged.way}`}
        {address !== null && (
          <>
            <br />
            <Link href={address} className="slot">
              what explains it
            </Link>
          </>
        )}
      </p>
    </>
  );
}
