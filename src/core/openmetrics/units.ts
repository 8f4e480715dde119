/**
 * Unit words of the text format and their UCUM codes (OpenTelemetry, "Compatibility with OpenMetrics": full words become
 * abbreviations).
 */
const CODES: Record<string, string> = {
  seconds: "s",
  milliseconds: "ms",
  microseconds: "us",
  nanoseconds: "ns",
  minutes: "min",
  hours: "h",
  days: "d",
  bytes: "By",
  kilobytes: "kBy",
  megabytes: "MBy",
  gigabytes: "GBy",
  kibibytes: "KiBy",
  mebibytes: "MiBy",
  gibibytes: "GiBy",
  bits: "bit",
  metres: "m",
  meters: "m",
  grams: "g",
  joules: "J",
  watts: "W",
  volts: "V",
  amperes: "A",
  kelvin: "K",
  celsius: "Cel",
  hertz: "Hz",
  ratio: "1",
  percent: "%",
};
const WORDS = new Map(Object.entries(CODES).map(([word, code]) => [code, word]));

/**
 * The UCUM code of a unit in words, or of the word that a metric's name ends with; "" where there is none. Client libraries
 * that write codes as they are (`# UNIT call_duration_s s`) are taken at their word.
 */
export function unitFromText(unit: string, name: string): string {
  if (WORDS.has(unit)) return unit;
  if (unit !== "") return CODES[unit] ?? (/^[\w %/.-]+$/.test(unit) ? `{${unit}}` : "");
  return CODES[name.slice(name.lastIndexOf("_") + 1)] ?? "";
}

/** The word for a UCUM code, to end a name with; "" where the code has none or says nothing. */
export function wordOfUnit(code: string): string {
  return code === "1" ? "" : (WORDS.get(code) ?? "");
}
