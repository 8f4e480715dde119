import {
  comparable,
  divideUnits,
  isDimensionless,
  multiplyUnits,
  NO_UNIT,
  parseUnit,
  type Unit,
  unitCode,
} from "../unit/unit";
import { type BinaryNode, type NumberNode, type Operator, ReadingError } from "./language/tree";
import type { MeasureResult, Row } from "./rows";

/** A plain number or the rows of a measure. */
export type Operand =
  | { type: "number"; value: number; unit: Unit; plain: boolean }
  | ({ type: "rows" } & MeasureResult);

export function numberOperand(node: NumberNode): Operand {
  return {
    type: "number",
    value: node.value,
    unit: node.unit ? parseUnit(node.unit) : NO_UNIT,
    plain: node.unit === "",
  };
}

function apply(operator: Operator, a: number, b: number): number {
  switch (operator) {
    case "+":
      return a + b;
    case "-":
      return a - b;
    case "*":
      return a * b;
    case "/":
      return b === 0 ? Number.NaN : a / b;
  }
}

/** The factor that brings the right side to the left side's unit, for + and -. */
function factorFor(node: BinaryNode, left: Operand, right: Operand): number {
  if ((left.type === "number" && left.plain) || (right.type === "number" && right.plain)) return 1;
  if (!comparable(left.unit, right.unit)) {
    const words = node.operator === "+" ? "added to" : "taken off";
    throw new ReadingError(
      `${unitCode(right.unit)} cannot be ${words} ${unitCode(left.unit)}`,
      node.from,
      "both sides need the same kind of unit",
      node.to - node.from,
    );
  }
  return right.unit.scale / left.unit.scale;
}

function resultUnit(operator: Operator, left: Operand, right: Operand): Unit {
  if (operator === "*") return multiplyUnits(left.unit, right.unit);
  if (operator === "/") return divideUnits(left.unit, right.unit);
  return left.type === "number" && left.plain ? right.unit : left.unit;
}

function withNumber(operator: Operator, row: Row, value: number, numberFirst: boolean): Row {
  const one = (x: number) => (numberFirst ? apply(operator, value, x) : apply(operator, x, value));
  const values = row.values.map(one);
  const total = one(row.total);
  // Bounds follow where the operation keeps order or turns it round; a number divided by bounds may not.
  const follows = row.low !== null && row.high !== null && !(numberFirst && operator === "/");
  if (!follows) return { ...row, values, low: null, high: null, total, totalLow: Number.NaN, totalHigh: Number.NaN };
  const turned = (operator === "*" || operator === "/" ? value < 0 : false) || (numberFirst && operator === "-");
  const low = row.low!.map(one);
  const high = row.high!.map(one);
  const ends = [one(row.totalLow), one(row.totalHigh)];
  return {
    ...row,
    values,
    total,
    low: turned ? high : low,
    high: turned ? low : high,
    totalLow: turned ? ends[1] : ends[0],
    totalHigh: turned ? ends[0] : ends[1],
  };
}

function key(row: Row): string {
  return JSON.stringify(Object.entries(row.labels).sort(([a], [b]) => (a < b ? -1 : 1)));
}

function pair(operator: Operator, a: Row, b: Row, labels: Row["labels"]): Row {
  return {
    labels,
    values: a.values.map((value, i) => apply(operator, value, b.values[i])),
    low: null,
    high: null,
    total: apply(operator, a.total, b.total),
    totalLow: Number.NaN,
    totalHigh: Number.NaN,
    settledTo: Math.min(a.settledTo, b.settledTo),
  };
}

/** Joins rows of equal labels; one row without labels goes with every row of the other side. */
function joinRows(operator: Operator, left: readonly Row[], right: readonly Row[]): { rows: Row[]; unmatched: number } {
  const single = (rows: readonly Row[]) => rows.length === 1 && Object.keys(rows[0].labels).length === 0;
  if (single(right)) return { rows: left.map((row) => pair(operator, row, right[0], row.labels)), unmatched: 0 };
  if (single(left)) return { rows: right.map((row) => pair(operator, left[0], row, row.labels)), unmatched: 0 };
  const byKey = new Map(right.map((row) => [key(row), row]));
  const rows: Row[] = [];
  for (const row of left) {
    const other = byKey.get(key(row));
    if (other) rows.push(pair(operator, row, other, row.labels));
  }
  return { rows, unmatched: left.length + right.length - 2 * rows.length };
}

/** Brings an operand whose unit has a scale that no code can say (ms/s, say) to a unit that has none. */
export function normalised(operand: Operand): Operand {
  const { unit } = operand;
  const said = parseUnit(unitCode(unit)).scale;
  const factor = unit.scale / said;
  if (Math.abs(factor - 1) < 1e-12 && !(isDimensionless(unit) && unit.scale !== 1)) return operand;
  const plain = isDimensionless(unit) ? NO_UNIT : { ...unit, scale: said };
  const by = isDimensionless(unit) ? unit.scale : factor;
  if (operand.type === "number") return { ...operand, unit: plain, value: operand.value * by };
  return { ...operand, unit: plain, rows: operand.rows.map((row) => withNumber("*", row, by, false)) };
}

/** Combines two operands. @throws ReadingError where their units do not go together */
export function combine(node: BinaryNode, left: Operand, right: Operand): Operand {
  const result = combined(node, left, right);
  return node.operator === "*" || node.operator === "/" ? normalised(result) : result;
}

function combined(node: BinaryNode, left: Operand, right: Operand): Operand {
  const { operator } = node;
  const additive = operator === "+" || operator === "-";
  const factor = additive ? factorFor(node, left, right) : 1;
  const unit = resultUnit(operator, left, right);
  if (left.type === "number" && right.type === "number") {
    return {
      type: "number",
      value: apply(operator, left.value, right.value * factor),
      unit,
      plain: left.plain && right.plain,
    };
  }
  const scaleRow = (row: Row) => (factor === 1 ? row : withNumber("*", row, factor, false));
  if (left.type === "number") {
    const other = right as Extract<Operand, { type: "rows" }>;
    return {
      ...other,
      unit,
      share: other.share && additive,
      rows: other.rows.map((row) => withNumber(operator, scaleRow(row), left.value, true)),
    };
  }
  if (right.type === "number") {
    return {
      ...left,
      unit,
      share: left.share && additive,
      rows: left.rows.map((row) => withNumber(operator, row, right.value * factor, false)),
    };
  }
  const { rows, unmatched } = joinRows(operator, left.rows, right.rows.map(scaleRow));
  const warnings = [...left.warnings, ...right.warnings];
  if (unmatched > 0)
    warnings.push({
      code: "unmatched",
      message: `${unmatched} series have no partner with the same labels on the other side`,
    });
  // A rate divided by a rate of the same thing is a part of a whole.
  const share =
    operator === "/"
      ? isDimensionless(unit) && comparable(left.unit, right.unit)
      : left.share && right.share && additive;
  return { type: "rows", unit, share, rows, warnings };
}
