import { conditionStructure, readingStructure } from "../reading/language/grammar";
import { printCondition, printReading } from "../reading/language/print";
import { type Condition, canonicalAttribute, type Expression, ReadingError } from "../reading/language/tree";
import type { Pick } from "./pick";
import { plateWords } from "./pickText";
import type { Plate, ReadingsPlate, Sheet } from "./sheet";
import { LABEL } from "./shown/names";

/** Names that changed where data comes from, put right wherever a sheet has them. */

export interface Repair {
  /** A metric, or an attribute of a metric ("" for any). */
  what: "metric" | "attribute";
  of: string;
  from: string;
  to: string;
}

/** A text of a sheet before and after a repair. */
export interface RepairChange {
  /** Where it stands, in words. */
  where: string;
  before: string;
  after: string;
}

function inCondition(condition: Condition | null, from: string, to: string): Condition | null {
  if (condition === null) return null;
  if (condition.type !== "test")
    return {
      ...condition,
      left: inCondition(condition.left, from, to)!,
      right: inCondition(condition.right, from, to)!,
    };
  const { test } = condition;
  return test.attribute === from ? { type: "test", test: { ...test, attribute: to } } : condition;
}

function inExpression(node: Expression, { what, of, from, to }: Repair): Expression {
  if (node.type === "number") return node;
  if (node.type === "binary")
    return {
      ...node,
      left: inExpression(node.left, { what, of, from, to }),
      right: inExpression(node.right, { what, of, from, to }),
    };
  if (what === "metric") return node.metric === from ? { ...node, metric: to } : node;
  if (of !== "" && node.metric !== of) return node;
  const [old, now] = [canonicalAttribute(from), canonicalAttribute(to)];
  return {
    ...node,
    numerator: inCondition(node.numerator, old, now),
    where: inCondition(node.where, old, now),
    by: node.by.map((name) => (name === old ? now : name)),
  };
}

/** A reading with a name put right; the same where it does not have it, or is not understood. */
export function repairedReading(text: string, repair: Repair): string {
  try {
    const tree = readingStructure(text);
    const expression = inExpression(tree.expression, repair);
    const [before, after] = [printReading(tree), printReading({ ...tree, expression })];
    return before === after ? text : after;
  } catch (error) {
    if (error instanceof ReadingError) return text;
    throw error;
  }
}

function repairedPick(pick: Pick, { what, of, from, to }: Repair): Pick {
  const { source } = pick;
  if (source.of !== "values") return pick;
  if (what === "metric") return source.metric === from ? { ...pick, source: { ...source, metric: to } } : pick;
  if (of !== "" && source.metric !== of) return pick;
  const [old, now] = [canonicalAttribute(from), canonicalAttribute(to)];
  let { where } = source;
  try {
    const condition = conditionStructure(where);
    const next = inCondition(condition, old, now);
    if (next && JSON.stringify(next) !== JSON.stringify(condition)) where = printCondition(next);
  } catch (error) {
    if (!(error instanceof ReadingError)) throw error;
  }
  const attribute = canonicalAttribute(source.attribute) === old ? to : source.attribute;
  return attribute === source.attribute && where === source.where
    ? pick
    : { ...pick, source: { ...source, attribute, where } };
}

/** A text in which {label} stands for a label's value, with the label put right. */
function repairedLabels(text: string, { what, from, to }: Repair): string {
  if (what !== "attribute") return text;
  const old = canonicalAttribute(from);
  return text.replace(LABEL, (written, label: string) => (canonicalAttribute(label) === old ? `{${to}}` : written));
}

/** What a table says of labels, put right with its readings. */
function repairedLook(look: ReadingsPlate["look"], repair: Repair): ReadingsPlate["look"] {
  if (look.as !== "table" || repair.what !== "attribute") return look;
  const sort =
    canonicalAttribute(look.sort) === canonicalAttribute(repair.from) ? canonicalAttribute(repair.to) : look.sort;
  return { ...look, sort, link: repairedLabels(look.link, repair) };
}

/** A sheet with a name put right, and what that changes; nothing where it does not have the name. */
export function repaired(sheet: Sheet, repair: Repair): { sheet: Sheet; changes: RepairChange[] } {
  const changes: RepairChange[] = [];
  const picks = sheet.picks.map((pick) => {
    const next = repairedPick(pick, repair);
    if (next !== pick && pick.source.of === "values" && next.source.of === "values") {
      const words = ({ metric, attribute, where }: { metric: string; attribute: string; where: string }) =>
        [attribute, metric && `of ${metric}`, where && `where ${where}`].filter(Boolean).join(" ");
      changes.push({ where: `the pick ${pick.name}`, before: words(pick.source), after: words(next.source) });
    }
    return next;
  });
  const inPlate = (plate: Plate): Plate => {
    if (plate.holds === "note") return plate;
    let changed = false;
    const readings = plate.readings.map((reading) => {
      const text = repairedReading(reading.text, repair);
      if (text === reading.text) return reading;
      changed = true;
      changes.push({ where: plateWords(plate), before: reading.text, after: text });
      return { ...reading, text, names: repairedLabels(reading.names, repair) };
    });
    if (!changed) return plate;
    // Rows are joined by their labels: as long as one reading has the old one, the table does.
    const still = readings.some(({ text }) => repairedReading(text, { ...repair, of: "" }) !== text);
    return { ...plate, readings, look: still ? plate.look : repairedLook(plate.look, repair) };
  };
  const bands = sheet.bands.map((band) => ({ ...band, plates: band.plates.map(inPlate) }));
  return { sheet: changes.length > 0 ? { ...sheet, picks, bands } : sheet, changes };
}
