/** Units that the semantic conventions use, as a person would look for them; the codes are UCUM. */
export interface UnitWord {
  code: string;
  words: string;
}

export const UNIT_WORDS: readonly UnitWord[] = [
  { code: "s", words: "seconds: any duration" },
  { code: "By", words: "bytes: memory, sizes, traffic" },
  { code: "1", words: "a part of a whole: utilization, hit ratio" },
  { code: "%", words: "percent" },
  { code: "{request}", words: "requests" },
  { code: "{error}", words: "errors" },
  { code: "{message}", words: "messages" },
  { code: "{job}", words: "jobs" },
  { code: "{item}", words: "items" },
  { code: "{connection}", words: "connections" },
  { code: "{thread}", words: "threads" },
  { code: "{process}", words: "processes" },
  { code: "{operation}", words: "operations" },
  { code: "ms", words: "milliseconds" },
  { code: "us", words: "microseconds" },
  { code: "ns", words: "nanoseconds" },
  { code: "min", words: "minutes" },
  { code: "h", words: "hours" },
  { code: "d", words: "days" },
  { code: "KiBy", words: "kibibytes" },
  { code: "MiBy", words: "mebibytes" },
  { code: "GiBy", words: "gibibytes" },
  { code: "bit", words: "bits" },
  { code: "By/s", words: "bytes per second" },
  { code: "Hz", words: "hertz: per second" },
  { code: "Cel", words: "degrees Celsius" },
  { code: "K", words: "kelvin" },
  { code: "V", words: "volts" },
  { code: "A", words: "amperes" },
  { code: "W", words: "watts" },
  { code: "J", words: "joules" },
  { code: "m", words: "metres" },
  { code: "g", words: "grams" },
];

/** A unit in words: "seconds", "loans (counted)", else its code. */
export function unitInWords(code: string): string {
  if (code === "") return "no unit";
  const known = UNIT_WORDS.find((one) => one.code === code);
  if (known) return known.words.split(":")[0];
  const note = /^\{([^{}]+)\}$/.exec(code);
  return note ? `${note[1]}s, counted` : code;
}
