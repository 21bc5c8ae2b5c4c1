/** Lists longer than this can be searched. */
export const searchedFrom = 12;

/** Narrows a long list as one types. */
export function SearchField({
  label,
  value,
  onChange,
  className = "",
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  className?: string;
}) {
  return (
    <input
      type="search"
      aria-label={label}
      placeholder={label.toLowerCase()}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      className={`rounded-sm border border-rule bg-sheet px-1.5 ${className}`}
    />
  );
}
