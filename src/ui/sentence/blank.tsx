/** A part of a sentence that is written in: as wide as what stands in it. */
export function Blank({
  name,
  value,
  onChange,
  type = "text",
  placeholder = "",
  onDone,
  onGiveUp,
}: {
  name: string;
  value: string;
  onChange: (value: string) => void;
  type?: "text" | "password";
  placeholder?: string;
  /** It was left, or Enter was pressed. */
  onDone?: () => void;
  /** Escape was pressed. */
  onGiveUp?: () => void;
}) {
  const width = Math.max(value.length || placeholder.length, 2) + 1;
  return (
    <input
      aria-label={name}
      type={type}
      value={value}
      title={value.length > 40 ? value : undefined}
      placeholder={placeholder}
      autoComplete="off"
      spellCheck={false}
      onChange={(event) => onChange(event.target.value)}
      onBlur={onDone}
      onKeyDown={(event) => {
        if (event.key === "Enter") onDone?.();
        if (event.key === "Escape") onGiveUp?.();
      }}
      className="num rounded-t-xs border-b-2 border-dotted border-primary/60 bg-primary/9 px-0.5 font-semibold text-primary placeholder:font-normal placeholder:text-muted focus:border-solid"
      style={{ width: `min(${width}ch, 100%)` }}
    />
  );
}
