"use client";
import { ToggleGroup } from "radix-ui";

/** One of a few, side by side. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly { value: T; label: string }[];
  onChange: (value: T) => void;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className="inline-flex overflow-hidden rounded-md border border-rule-strong"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          className="h-[26px] border-r border-rule-strong bg-sheet px-2.5 text-[12.5px] font-medium last:border-r-0 hover:bg-well data-[state=on]:bg-ink data-[state=on]:text-sheet"
        >
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
