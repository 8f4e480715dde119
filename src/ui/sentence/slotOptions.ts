export interface SlotOption {
  value: string;
  label?: string;
  note?: string;
}

/** Options that are drawn at once. */
export const MAX_DRAWN = 200;

/** The options that have a text in them; those that begin with it come first. */
export function matchingOptions(options: readonly SlotOption[], text: string): SlotOption[] {
  const wanted = text.toLowerCase();
  const place = ({ value, label = "" }: SlotOption) => {
    const at = value.toLowerCase().indexOf(wanted);
    return at >= 0 ? at : label.toLowerCase().indexOf(wanted);
  };
  return options
    .map((option) => ({ option, at: place(option) }))
    .filter(({ at }) => at >= 0)
    .sort((a, b) => Number(a.at > 0) - Number(b.at > 0))
    .map(({ option }) => option);
}
