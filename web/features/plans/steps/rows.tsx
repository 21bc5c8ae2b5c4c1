"use client";
import { Checkbox } from "radix-ui";
import { Check } from "lucide-react";
import { useState, type ReactNode } from "react";
import type { Plan } from "@larder/core/plans/plan";

export type Change = (plan: Plan) => void;
export type ClassCount = { name: string; images: number; objects: number };

export function Row({ children }: { children: ReactNode }) {
  return <div className="border-t border-rule py-2 first:border-t-0">{children}</div>;
}

export function Hint({ children }: { children: ReactNode }) {
  return <p className="pt-1.5 text-small text-ink-3">{children}</p>;
}

export function Tick({
  label,
  checked,
  onChange,
  children,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
  children?: ReactNode;
}) {
  return (
    <div className="flex items-center gap-2.5">
      <Checkbox.Root
        aria-label={label}
        checked={checked}
        onCheckedChange={(next) => onChange(next === true)}
        className="grid size-4 shrink-0 place-items-center rounded-[3px] border border-rule-strong bg-sheet data-[state=checked]:border-act data-[state=checked]:bg-act data-[state=checked]:text-act-ink"
      >
        <Checkbox.Indicator>
          <Check size={12} strokeWidth={3} />
        </Checkbox.Indicator>
      </Checkbox.Root>
      <button
        type="button"
        tabIndex={-1}
        onClick={() => onChange(!checked)}
        className="min-w-0 flex-1 truncate text-left"
        title={label}
      >
        {label}
      </button>
      {children}
    </div>
  );
}

/** A short text in a row of controls, taken when it is left or by Enter. */
export function ShortText({
  label,
  value,
  onCommit,
  placeholder,
  problem,
  className = "w-[118px]",
}: {
  label: string;
  value: string;
  onCommit: (value: string) => void;
  placeholder?: string;
  problem?: string | undefined;
  className?: string;
}) {
  const [draft, setDraft] = useState<string | null>(null);
  const commit = () => {
    if (draft !== null) onCommit(draft.trim());
    setDraft(null);
  };
  return (
    <>
      <input
        aria-label={label}
        aria-invalid={problem ? true : undefined}
        value={draft ?? value}
        placeholder={placeholder}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === "Enter" && commit()}
        className={`h-[26px] rounded-md border bg-sheet px-2 text-[12.5px] outline-offset-0 ${problem ? "border-harm" : "border-rule-strong"} ${className}`}
      />
      {problem ? (
        <p role="alert" className="pt-1 text-small text-harm">
          {problem}
        </p>
      ) : null}
    </>
  );
}

/** Names separated by commas, as a list. */
export function namesIn(text: string): string[] {
  return [...new Set(text.split(",").map((name) => name.trim()))].filter((name) => name !== "");
}
