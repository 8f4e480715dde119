"use client";

/** A short field of an editor, with what it is for above it. */
export function TextField({
  label,
  value,
  onChange,
  width = "w-40",
  placeholder,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  width?: string;
  placeholder?: string;
}) {
  return (
    <label className="inline-block align-bottom">
      <span className="block text-[12px] text-muted">{label}</span>
      <input
        className={`input input-sm ${width}`}
        value={value}
        placeholder={placeholder}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}
