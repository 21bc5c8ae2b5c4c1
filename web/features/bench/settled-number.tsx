"use client";
import { useState } from "react";
import { NumberInput } from "@/ui/number-input";

/** A number that counts once it is settled: by Enter, by leaving it, or by letting go of it. */
export function SettledNumber({
  value,
  min,
  onSettle,
}: {
  value: number;
  min: number;
  onSettle: (value: number) => void;
}) {
  const [draft, setDraft] = useState<number | null>(null);
  const settle = () => {
    setDraft(null);
    if (draft !== null && draft !== value) onSettle(draft);
  };
  return (
    <NumberInput
      value={draft ?? value}
      min={min}
      max={1e6}
      step={0.5}
      className="h-7 w-full border-dim-rule! bg-dim! px-1! text-[12.5px]"
      onChange={setDraft}
      onBlurCapture={settle}
      onPointerUpCapture={(event) => {
        if (document.activeElement !== event.currentTarget) settle();
      }}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}
