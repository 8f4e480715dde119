import type { CauseAnswer, ComparisonAnswer, ExplanationAnswer, SideAnswer } from "../api/comparison";
import { digits, formatValue } from "../unit/format";
import { changeText, differenceText, FAILURE_WORDS, inASentence, LATENCY_WORDS, needsText } from "./says";

/** A comparison as Markdown, to be pasted into a change record: each figure with its window and method. */

const percent = (share: number) => `${digits(share * 100)} %`;

function bounds({ low, high }: { low: number | null; high: number | null }, text: (value: number) => string): string {
  return `${low === null ? "any less" : text(low)} to ${high === null ? "any more" : text(high)}`;
}

/** A cell of a table: what would end it, or begin another, does not. */
const cell = (text: string) => text.replace(/[\\|]/g, "\\$&").replace(/\s+/g, " ");

function row(...cells: string[]): string {
  return `| ${cells.map(cell).join(" | ")} |`;
}

function moment(time: number): string {
  return new Date(time).toISOString().slice(0, 16).replace("T", " ");
}

function sideText({ service, release, environment, from, to }: SideAnswer): string {
  return `${service} ${release}${environment === "" ? "" : ` in ${environment}`}, ${moment(from)} to ${moment(to)} UTC`;
}

/** A cause in words: "depot = Brindle, http.route = /loans". */
export function causeText({ where }: Pick<CauseAnswer, "where">): string {
  return where
    .map(({ attribute, value }) => (value === null ? `no ${attribute}` : `${attribute} = ${value}`))
    .join(", ");
}

function explanationLines(title: string, found: ExplanationAnswer | null): string[] {
  if (!found || found.whole === 0) return [];
  const points = (part: number) => changeText(part, "points");
  const { candidate, baseline } = found.shares;
  const lines = [
    "",
    `## ${title}`,
    "",
    `${percent(candidate)} of calls against ${percent(baseline)}, ${points(found.whole)}.`,
  ];
  if (found.causes.length === 0)
    return [...lines, "", "No value of an attribute, and no pair, stands out beyond chance."];
  return [
    ...lines,
    "",
    row("comes from", "adds", "99 % interval", "within", "by mix"),
    row("---", "---", "---", "---", "---"),
    ...found.causes.map((cause) =>
      row(causeText(cause), points(cause.part), bounds(cause, points), points(cause.within), points(cause.mix)),
    ),
  ];
}

/** @param address of the page that shows it; "" where there is none */
export function reportOf(answer: ComparisonAnswer, address: string): string {
  const { candidate, baseline, found, unit, metric, tolerances } = answer;
  const title = `# ${candidate.service} ${candidate.release}${baseline ? ` against ${baseline.service === candidate.service ? "" : `${baseline.service} `}${baseline.release}` : ""}`;
  if (!baseline || !found) return `${title}\n\nThere is nothing to hold it against in this window.\n`;
  const held = answer.hold.map((one) =>
    one.value === null ? `no ${one.attribute}` : `${one.attribute} = ${one.value}`,
  );
  const value = (number: number) => formatValue(number, unit);
  const relative = (number: number) => changeText(number, "%");
  const points = (number: number) => changeText(number, "points");
  const lines = [
    title,
    "",
    `${inASentence(candidate.release, baseline.release, found, unit)}.`,
    "",
    `- Candidate: ${sideText(candidate)}`,
    `- Baseline: ${sideText(baseline)}`,
    `- Minutes: ${found.minutes} of each, ${answer.way}: ${answer.pairing}; ${digits(found.calls.candidate)} and ${digits(found.calls.baseline)} calls`,
    `- Read from: ${metric}${held.length > 0 ? `, only calls with ${held.join(" and ")}` : ""}; failed: ${answer.failed}`,
    "",
    row("measure", candidate.release, baseline.release, "change", "99 % interval", "verdict"),
    row("---", "---", "---", "---", "---", "---"),
    ...found.latency.map(({ q, candidate: ours, baseline: theirs, change }) =>
      row(
        `p${q * 100}`,
        value(ours.value),
        value(theirs.value),
        relative(change.value),
        bounds(change, relative),
        LATENCY_WORDS[change.verdict] + needed(needsText(change, unit)),
      ),
    ),
  ];
  if (found.failures) {
    const { candidate: ours, baseline: theirs, change } = found.failures;
    const verdict = FAILURE_WORDS[change.verdict] + needed(needsText(change, unit));
    lines.push(
      row("errors", percent(ours.value), percent(theirs.value), points(change.value), bounds(change, points), verdict),
    );
  }
  lines.push(
    row(
      "throughput",
      `${digits(found.rates.candidate)} /s`,
      `${digits(found.rates.baseline)} /s`,
      found.throughput ? relative(found.throughput.value) : "",
      found.throughput ? bounds(found.throughput, relative) : "",
      "",
    ),
  );
  if (found.split) {
    const { split } = found;
    const meant = split.meant === null ? "" : `meant ${percent(split.meant)}: ${split.verdict}`;
    lines.push(row("part of all calls", percent(split.value), "", "", bounds(split, percent), meant));
  }
  for (const {
    name,
    unit: own,
    share,
    candidate: ours,
    baseline: theirs,
    change,
    relative: isRelative,
    verdict,
  } of answer.measures) {
    const text = isRelative ? relative : differenceText([ours, theirs], own, share);
    lines.push(
      row(
        name,
        formatValue(ours, own, share),
        formatValue(theirs, own, share),
        text(change.value),
        bounds(change, text),
        verdict,
      ),
    );
  }
  if (answer.alike) {
    const { alike } = answer;
    lines.push("", `## Like for like by ${alike.attribute}`, "");
    if (answer.differs !== null)
      lines.push(`With the same mix of ${answer.differs} on both sides, the verdict is another one.`, "");
    lines.push(row("measure", "change", "99 % interval", "verdict"), row("---", "---", "---", "---"));
    for (const { q, change } of alike.latency)
      lines.push(row(`p${q * 100}`, relative(change.value), bounds(change, relative), LATENCY_WORDS[change.verdict]));
    if (alike.failures) {
      const { change } = alike.failures;
      lines.push(row("errors", points(change.value), bounds(change, points), FAILURE_WORDS[change.verdict]));
    }
  }
  const slower = answer.slower === null ? "slow calls" : `calls slower than ${value(answer.slower)}`;
  lines.push(...explanationLines(`What explains ${slower}`, answer.slow));
  lines.push(...explanationLines("What explains failures", answer.failing));
  lines.push(
    "",
    "## Method",
    "",
    `Minutes of both sides are drawn again together, in blocks of up to five (block bootstrap); intervals hold at every look with 99 %, and are widened by what the buckets leave open. Worse or better: the whole interval lies beyond the tolerance (${percent(tolerances.latency)} of latency, ${digits(tolerances.failures * 100)} points of errors). Shares have Wilson's bounds, their difference Newcombe's. Asked ${moment(answer.askedAt)} UTC.`,
  );
  if (address !== "") lines.push("", address);
  return `${lines.join("\n")}\n`;
}

function needed(needs: string | null): string {
  return needs === null ? "" : ` (${needs})`;
}
