import { Slot } from "radix-ui";
import type { ComponentProps } from "react";

type Look = "plain" | "go" | "quiet" | "harm" | "dim";

const looks: Record<Look, string> = {
  plain: "border-rule-strong bg-sheet text-ink hover:bg-well",
  go: "border-act bg-act text-act-ink font-semibold hover:brightness-110",
  quiet: "border-transparent bg-transparent text-ink-2 hover:bg-well hover:text-ink",
  harm: "border-harm bg-sheet text-harm hover:bg-harm-wash",
  dim: "border-dim-rule bg-dim-2 text-dim-ink hover:bg-dim-rule",
};

/** A button, or with `asChild` a link that looks like one. */
export function Button({
  look = "plain",
  small = false,
  asChild = false,
  className = "",
  ...rest
}: ComponentProps<"button"> & { look?: Look; small?: boolean; asChild?: boolean }) {
  const Element = asChild ? Slot.Root : "button";
  const size = small ? "h-[26px] px-2.5 text-[12.5px]" : "h-8 px-3.5";
  return (
    <Element
      {...(asChild ? {} : { type: "button" as const })}
      className={`inline-flex shrink-0 items-center justify-center gap-1.5 rounded-md border font-medium whitespace-nowrap disabled:opacity-50 ${size} ${looks[look]} ${className}`}
      {...rest}
    />
  );
}
