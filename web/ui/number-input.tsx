"use client";
import { useRef, useState, type ComponentProps } from "react";

/** How many pixels a pointer is drawn for one step. */
const pixelsAStep = 4;

/**
 * A number that is typed, stepped by the arrows, or drawn sideways with the pointer. It may be empty or out of range while
 * it is typed; what is not a number in range when it is left goes back to what it was.
 */
export function NumberInput({
  value,
  onChange,
  min,
  max,
  step = 1,
  className = "",
  ...rest
}: Omit<ComponentProps<"input">, "value" | "onChange" | "type" | "min" | "max" | "step"> & {
  value: number;
  onChange: (value: number) => void;
  min: number;
  max: number;
  step?: number;
}) {
  const [draft, setDraft] = useState<string | null>(null);
  const drag = useRef<{ x: number; value: number; moved: boolean } | null>(null);
  const put = (next: number) => {
    const digits = Math.max(0, Math.ceil(-Math.log10(step)));
    const rounded = Number(next.toFixed(digits + 2));
    onChange(Math.min(max, Math.max(min, rounded)));
  };
  return (
    <input
      {...rest}
      type="number"
      min={min}
      max={max}
      step={step}
      value={draft ?? (Number.isFinite(value) ? value : "")}
      onChange={(event) => {
        setDraft(event.target.value);
        const next = event.target.valueAsNumber;
        if (Number.isFinite(next) && next >= min && next <= max) onChange(next);
      }}
      onBlur={() => setDraft(null)}
      onPointerDown={(event) => {
        if (document.activeElement === event.currentTarget || event.button !== 0) return;
        drag.current = { x: event.clientX, value, moved: false };
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        const from = drag.current;
        if (!from) return;
        const steps = Math.trunc((event.clientX - from.x) / pixelsAStep);
        if (steps === 0 && !from.moved) return;
        from.moved = true;
        put(from.value + steps * step);
      }}
      onPointerUp={() => (drag.current = null)}
      className={`rounded-md border border-rule-strong bg-sheet px-2 text-right outline-offset-0 ${className}`}
    />
  );
}
