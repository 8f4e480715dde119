/** A field to find something in a list by typing. */
export function SearchField({
  label,
  placeholder,
  text,
  onText,
  className,
}: {
  label: string;
  placeholder: string;
  text: string;
  /** null: nothing is looked for. */
  onText: (text: string | null) => void;
  className: string;
}) {
  return (
    <input
      type="search"
      aria-label={label}
      placeholder={placeholder}
      value={text}
      onChange={(event) => onText(event.target.value || null)}
      className={`input input-sm ${className}`}
    />
  );
}
