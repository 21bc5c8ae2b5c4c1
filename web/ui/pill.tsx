import type { ComponentProps } from "react";

/** A small word that is chosen or not. */
export function Pill({ pressed, className = "", ...rest }: ComponentProps<"button"> & { pressed: boolean }) {
  return (
    <button
      type="button"
      aria-pressed={pressed}
      className={`rounded-full border border-rule-strong px-2 text-[12px] leading-[19px] whitespace-nowrap disabled:opacity-60 aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-sheet ${className}`}
      {...rest}
    />
  );
}
