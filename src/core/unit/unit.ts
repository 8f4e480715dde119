/**
 * Units as UCUM codes (The Unified Code for Units of Measure, 2.1): parsed into a scale and powers of base units,
 * multiplied, divided, compared and converted. The table holds the codes that OpenTelemetry's semantic conventions
 * use, with metric and binary prefixes. An annotation such as `{loan}` counts as a base unit of its own, so that
 * loans and credits do not add up by mistake; UCUM itself treats it as 1.
 */

export interface Unit {
  /** How many base units one of this unit is. */
  scale: number;
  /** Powers of base units, without zeros. */
  powers: Readonly<Record<string, number>>;
}

/** A code that is no unit known here. */
export class UnitError extends Error {
  override name = "UnitError";
}

export const NO_UNIT: Unit = { scale: 1, powers: {} };

const BASES: Record<string, [number, string]> = {
  s: [1, "s"],
  min: [60, "s"],
  h: [3600, "s"],
  d: [86400, "s"],
  wk: [604800, "s"],
  By: [1, "By"],
  bit: [0.125, "By"],
  m: [1, "m"],
  g: [1, "g"],
  Hz: [1, "/s"],
  J: [1, "J"],
  W: [1, "W"],
  V: [1, "V"],
  A: [1, "A"],
  K: [1, "K"],
  Cel: [1, "Cel"],
  "%": [0.01, ""],
  "1": [1, ""],
};
const PREFIXED = new Set(["s", "By", "bit", "m", "g", "Hz", "J", "W", "V", "A", "K"]);
const PREFIXES: Record<string, number> = {
  n: 1e-9,
  u: 1e-6,
  m: 1e-3,
  c: 1e-2,
  k: 1e3,
  M: 1e6,
  G: 1e9,
  T: 1e12,
  P: 1e15,
  Ki: 1024,
  Mi: 1024 ** 2,
  Gi: 1024 ** 3,
  Ti: 1024 ** 4,
};

function atom(code: string): Unit {
  const annotated = /^([^{}]*)\{([^{}]*)\}$/.exec(code);
  if (annotated) {
    const [, head, note] = annotated;
    if (head !== "" && head !== "1") return atom(head);
    return note === "" ? NO_UNIT : { scale: 1, powers: { [`{${note}}`]: 1 } };
  }
  if (Object.hasOwn(BASES, code)) {
    const [scale, name] = BASES[code];
    if (name === "") return { scale, powers: {} };
    return name === "/s" ? { scale, powers: { s: -1 } } : { scale, powers: { [name]: 1 } };
  }
  for (const [prefix, factor] of Object.entries(PREFIXES)) {
    const rest = code.slice(prefix.length);
    if (code.startsWith(prefix) && PREFIXED.has(rest)) {
      const unit = atom(rest);
      return { scale: unit.scale * factor, powers: unit.powers };
    }
  }
  throw new UnitError(`"${code}" is not a unit known here; write it as an annotation such as {${code || "item"}}`);
}

function combine(a: Unit, b: Unit, sign: 1 | -1): Unit {
  const powers: Record<string, number> = { ...a.powers };
  for (const [name, power] of Object.entries(b.powers)) {
    const sum = (powers[name] ?? 0) + sign * power;
    if (sum === 0) delete powers[name];
    else powers[name] = sum;
  }
  return { scale: sign === 1 ? a.scale * b.scale : a.scale / b.scale, powers };
}

export function multiplyUnits(a: Unit, b: Unit): Unit {
  return combine(a, b, 1);
}

export function divideUnits(a: Unit, b: Unit): Unit {
  return combine(a, b, -1);
}

const MAX_POWER = 40;

/**
 * Parses a UCUM code; "" is no unit.
 *
 * @throws UnitError for a code that is not in the table
 */
export function parseUnit(code: string): Unit {
  const text = code.trim();
  if (text === "") return NO_UNIT;
  let unit = NO_UNIT;
  let sign: 1 | -1 = 1;
  for (const part of text.match(/[./]|(?:[^./{}]|\{[^{}]*\})+/g) ?? []) {
    if (part === ".") sign = 1;
    else if (part === "/") sign = -1;
    else {
      const power = /^([^\d{}]+|\{[^{}]*\})([+-]?\d+)$/.exec(part);
      if (power && Math.abs(Number(power[2])) > MAX_POWER)
        throw new UnitError(`"${code}" has a power of ${power[2]}; at most ${MAX_POWER}`);
      const one = atom(power ? power[1] : part);
      for (let i = power ? Math.abs(Number(power[2])) : 1; i > 0; i--) {
        unit = combine(unit, one, power && Number(power[2]) < 0 ? (-sign as 1 | -1) : sign);
      }
    }
  }
  return unit;
}

/** Parses a unit, taking a code that is not known as an annotation: senders write all sorts of things. */
export function lenientUnit(code: string): Unit {
  try {
    return parseUnit(code);
  } catch {
    const note = code.replace(/[{}]/g, "").trim();
    return note === "" ? NO_UNIT : { scale: 1, powers: { [`{${note}}`]: 1 } };
  }
}

/** Whether values of the two can be added and compared, converted where their scales differ. */
export function comparable(a: Unit, b: Unit): boolean {
  const names = new Set([...Object.keys(a.powers), ...Object.keys(b.powers)]);
  for (const name of names) if ((a.powers[name] ?? 0) !== (b.powers[name] ?? 0)) return false;
  return true;
}

export function isDimensionless(unit: Unit): boolean {
  return Object.keys(unit.powers).length === 0;
}

function named(scale: number, base: string): string | null {
  if (base.startsWith("{")) return scale === 1 ? base : null;
  for (const [code, [factor, name]] of Object.entries(BASES)) if (name === base && factor === scale) return code;
  for (const [prefix, factor] of Object.entries(PREFIXES))
    if (factor === scale && PREFIXED.has(base)) return prefix + base;
  return null;
}

/** A UCUM code for the unit: "s", "ms", "{loan}/s", "%", "1". An annotation takes no power, so it stands several times. */
export function unitCode(unit: Unit): string {
  const entries = Object.entries(unit.powers);
  if (entries.length === 0) return unit.scale === 0.01 ? "%" : "1";
  const over = entries.filter(([, power]) => power > 0);
  const under = entries.filter(([, power]) => power < 0);
  let left = unit.scale;
  const write = ([name, power]: [string, number]) => {
    const size = Math.abs(power);
    const scaled = size === 1 ? named(power > 0 ? left : 1 / left, name) : null;
    if (scaled !== null) left = 1;
    if (size > 1 && name.startsWith("{")) return new Array<string>(size).fill(name).join(power > 0 ? "." : "/");
    return (scaled ?? name) + (size > 1 ? size : "");
  };
  const top = over.map(write).join(".");
  return top + under.map((entry) => `/${write(entry)}`).join("");
}
