"use client";
import type { OptionDeclaration } from "@larder/core/formats/format";
import { ShortText } from "@/features/plans/steps/rows";

/** A format as far as a page that packs has to know it. */
export type PackFormat = {
  name: string;
  title: string;
  /** Where a trainer is to look. */
  training: string;
  options: readonly OptionDeclaration[];
};

/** The writing options of a format, made from its declarations; what stays at its default is not among `options`. */
export function OptionRows({
  format,
  options,
  onChange,
}: {
  format: PackFormat;
  options: Record<string, string>;
  onChange: (options: Record<string, string>) => void;
}) {
  return (
    <div className="mt-1.5 ml-[26px] flex flex-col gap-1.5">
      {format.options.map((option) => {
        const { [option.name]: value, ...rest } = options;
        const put = (next: string) => onChange(next === "" ? rest : { ...rest, [option.name]: next });
        return (
          <label
            key={option.name}
            className="flex items-center justify-between gap-2 text-[12.5px]"
            title={option.describes}
          >
            <span className="min-w-0 truncate text-ink-2">{option.name}</span>
            {typeof option.values === "string" ? (
              <ShortText
                label={`${format.name} ${option.name}`}
                value={value ?? ""}
                placeholder={option.default}
                onCommit={put}
              />
            ) : (
              <select
                aria-label={`${format.name} ${option.name}`}
                value={value ?? ""}
                onChange={(event) => put(event.target.value)}
                className="h-[24px] max-w-[180px] rounded-md border border-rule-strong bg-sheet px-1.5"
              >
                <option value="">{option.default}</option>
                {option.values
                  .filter((word) => word !== option.default)
                  .map((word) => (
                    <option key={word}>{word}</option>
                  ))}
              </select>
            )}
          </label>
        );
      })}
    </div>
  );
}
