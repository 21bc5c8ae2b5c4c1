"use client";
import type { ReadOption } from "@larder/core/formats/reading-options";
import { useQuery } from "@tanstack/react-query";
import { api } from "@/features/live/api";
import { SelectField } from "@/ui/field";

/** The ways in which a format can be read, each with what it does; nothing where there is one way only. */
export function ReadingOptions({
  format,
  options,
  onChange,
}: {
  format: string;
  options: Readonly<Record<string, string>>;
  onChange: (options: Record<string, string>) => void;
}) {
  const { data } = useQuery({
    queryKey: ["reading-options"],
    staleTime: Infinity,
    queryFn: ({ signal }) => api<Record<string, ReadOption[]>>("/api/formats", { signal }),
  });
  const declared = Object.entries(data ?? {}).find(([name]) => name === format)?.[1] ?? [];
  const choose = (name: string, value: string) => {
    const others = Object.entries(options).filter(([key]) => key !== name);
    onChange(Object.fromEntries<string>(value === "" ? others : [...others, [name, value]]));
  };
  return declared.map((option) => (
    <div key={option.name} className="mt-3">
      <SelectField
        label={`${option.name}: ${option.describes}`}
        value={options[option.name] ?? ""}
        onChange={(value) => choose(option.name, value)}
        options={[
          { value: "", label: `not chosen (${option.default})` },
          ...option.values.map((value) => ({ value, label: value })),
        ]}
      />
    </div>
  ));
}
