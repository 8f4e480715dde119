import type { HomeEntry } from "../api/home";
import { leakText, shiftText } from "./driftSays";
import { changeText, FAILURE_WORDS, LATENCY_WORDS } from "./says";

/** Which services need a look first, and why. */

/** How bad it is, the worst first, and why in a sentence; "" where there is nothing to say. */
export interface Standing {
  rank: number;
  tone: "bad" | "good" | "waiting" | "quiet";
  reason: string;
}

/** A change of latency by half is as bad as two percent more failures. */
const FAILURES_WEIGH = 25;

/** What changed for the worse without a release, in words. */
function driftOf({ shift, leak }: HomeEntry): string | null {
  if (shift && shift.change > 0) {
    const from = shift.cause === null ? "" : `, from ${shift.cause}`;
    return `nothing was released, yet ${shiftText(shift)}${from}`;
  }
  return leak === null ? null : `looks like a leak: ${leakText(leak)}`;
}

export function standingOf(entry: HomeEntry): Standing {
  const found = standingOfRelease(entry);
  const drift = entry.silent ? null : driftOf(entry);
  if (drift === null || found.rank >= DRIFTS) return found;
  return { rank: DRIFTS, tone: "bad", reason: drift };
}

/** What changed by itself comes before what is not known yet. */
const DRIFTS = 400;

function standingOfRelease({ silent, outlook, findings, newest }: HomeEntry): Standing {
  if (silent) return { rank: 900, tone: "bad", reason: "fell silent" };
  const verdict = outlook?.verdict;
  const against = verdict ? ` than ${verdict.against}` : "";
  const [latency, failures] = [verdict?.latency, verdict?.failures];
  const worse = [
    ...(failures?.verdict === "worse"
      ? [
          {
            size: failures.value * FAILURES_WEIGH,
            said: `${FAILURE_WORDS.worse}${against}, ${changeText(failures.value, "points")}`,
          },
        ]
      : []),
    ...(latency?.verdict === "worse"
      ? [{ size: latency.value, said: `${LATENCY_WORDS.worse}${against}, p95 ${changeText(latency.value, "%")}` }]
      : []),
  ];
  if (worse.length > 0) {
    const size = worse.reduce((total, one) => total + one.size, 0);
    const said = [...worse.map((one) => one.said), ...(verdict?.cause ? [verdict.cause] : [])].join("; ");
    // Like for like it is another verdict: it is looked at, and not cried over.
    if (verdict?.differs)
      return {
        rank: 300,
        tone: "waiting",
        reason: `${said}; but the mix of ${verdict.differs} changed, and like for like it is not so`,
      };
    return { rank: 500 + Math.min(300, 100 * size), tone: "bad", reason: said };
  }
  if (outlook?.problem) return { rank: 160, tone: "waiting", reason: `it could not be looked at: ${outlook.problem}` };
  if (findings > 0 && !verdict)
    return { rank: 100 + Math.min(90, findings), tone: "waiting", reason: "what it reports is not as it should be" };
  if (verdict && [latency, failures].some((one) => one?.verdict === "not enough yet")) {
    const sure = [
      latency?.verdict === "better" ? "faster" : null,
      failures?.verdict === "better" ? "fewer errors" : null,
    ].filter(Boolean);
    if (latency?.tooWide && failures?.verdict !== "not enough yet" && sure.length === 0)
      return {
        rank: 150,
        tone: "waiting",
        reason: `fails no more than ${verdict.against}; its buckets are too wide to tell whether it is slower`,
      };
    return {
      rank: 200,
      tone: "waiting",
      reason: `${sure.length > 0 ? `${sure.join(", ")}; else ` : ""}not enough yet to tell it from ${verdict.against}`,
    };
  }
  const better = [
    ...(latency?.verdict === "better" ? [`faster${against}, p95 ${changeText(latency.value, "%")}`] : []),
    ...(failures?.verdict === "better" ? [`fewer errors${against}, ${changeText(failures.value, "points")}`] : []),
  ];
  if (better.length > 0) return { rank: 30, tone: "good", reason: better.join("; ") };
  if (verdict) return { rank: 20, tone: "good", reason: `as quick as ${verdict.against}, and fails no more` };
  if (outlook && outlook.rate === null) return { rank: 5, tone: "quiet", reason: "reports no histogram of its calls" };
  return { rank: 10, tone: "quiet", reason: newest ? "nothing was released lately" : "" };
}

/** The worst first; equal ones by when their newest release came, and by name. */
export function worstFirst(entries: readonly HomeEntry[]): HomeEntry[] {
  const rank = new Map(entries.map((entry) => [entry, standingOf(entry).rank]));
  return [...entries].sort(
    (a, b) =>
      rank.get(b)! - rank.get(a)! ||
      (b.newest?.firstAt ?? 0) - (a.newest?.firstAt ?? 0) ||
      a.service.localeCompare(b.service),
  );
}
