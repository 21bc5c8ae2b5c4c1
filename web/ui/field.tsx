import { useId, type ComponentProps, type ReactNode } from "react";
import { NumberInput } from "./number-input";

function Label({ id, children }: { id: string; children: ReactNode }) {
  return (
    <label htmlFor={id} className="mb-1 block text-small font-medium text-ink-2">
      {children}
    </label>
  );
}

/** A labelled line of text with room for what is wrong with it. */
export function TextField({
  label,
  error,
  hint,
  className = "",
  ...rest
}: ComponentProps<"input"> & { label: string; error?: string | undefined; hint?: ReactNode }) {
  const id = useId();
  return (
    <div className={className}>
      <Label id={id}>{label}</Label>
      <input
        id={id}
        aria-invalid={error ? true : undefined}
        aria-describedby={error ? `${id}-error` : undefined}
        className="h-8 w-full rounded-md border border-rule-strong bg-sheet px-2.5 outline-offset-0"
        {...rest}
      />
      {error ? (
        <p id={`${id}-error`} className="mt-1 text-small text-harm">
          {error}
        </p>
      ) : hint ? (
        <p className="mt-1 text-small text-ink-3">{hint}</p>
      ) : null}
    </div>
  );
}

/** A number with its unit, for controls in a row. */
export function NumberField({
  label,
  name,
  unit,
  value,
  onChange,
  min,
  max,
  step = 1,
  className = "",
}: {
  label: string;
  /** What it is called where its label stands elsewhere. */
  name?: string;
  unit?: string;
  value: number;
  onChange: (value: number) => void;
  min: number;
  max: number;
  step?: number;
  className?: string;
}) {
  return (
    <label className={`flex items-center justify-between gap-3 ${className}`}>
      <span>{label}</span>
      <span className="flex items-center gap-1.5">
        <NumberInput
          aria-label={name}
          value={value}
          min={min}
          max={max}
          step={step}
          onChange={onChange}
          className="h-[26px] w-[72px]"
        />
        {unit ? <span className="w-6 text-small text-ink-3">{unit}</span> : null}
      </span>
    </label>
  );
}

/** One of many, from a list. */
export function SelectField({
  label,
  value,
  options,
  onChange,
  className = "",
}: {
  label: string;
  value: string;
  options: readonly { value: string; label: string }[];
  onChange: (value: string) => void;
  className?: string;
}) {
  const id = useId();
  return (
    <div className={className}>
      <Label id={id}>{label}</Label>
      <select
        id={id}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="h-8 w-full truncate rounded-md border border-rule-strong bg-sheet px-2"
      >
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.label}
          </option>
        ))}
      </select>
    </div>
  );
}
