"use client";
import { Popover as Radix } from "radix-ui";
import type { ReactNode } from "react";

/** A small sheet under its trigger, for what is looked at or set beside the page. `label`: its name. */
export function Popover({
  trigger,
  label,
  align = "end",
  className,
  open,
  onOpenChange,
  children,
}: {
  trigger: ReactNode;
  label: string;
  align?: "start" | "end";
  className: string;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  children: ReactNode;
}) {
  return (
    <Radix.Root {...(open === undefined ? {} : { open })} {...(onOpenChange ? { onOpenChange } : {})}>
      <Radix.Trigger asChild>{trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          align={align}
          sideOffset={6}
          aria-label={label}
          className={`z-50 rounded-md border border-rule-strong bg-sheet ${className}`}
        >
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
