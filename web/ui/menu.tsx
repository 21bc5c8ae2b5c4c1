"use client";
import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";

/** A menu under its trigger. */
export function Menu({
  trigger,
  children,
  align = "end",
}: {
  trigger: ReactNode;
  children: ReactNode;
  align?: "start" | "end";
}) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align={align}
          sideOffset={4}
          className="z-50 min-w-44 rounded-md border border-rule-strong bg-sheet p-1"
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

export function MenuItem({
  onSelect,
  harm = false,
  asChild = false,
  children,
}: {
  onSelect?: () => void;
  harm?: boolean;
  asChild?: boolean;
  children: ReactNode;
}) {
  return (
    <DropdownMenu.Item
      asChild={asChild}
      {...(onSelect ? { onSelect } : {})}
      className={`flex cursor-pointer items-center gap-2 rounded-sm px-2.5 py-1.5 outline-none data-[highlighted]:bg-well ${harm ? "text-harm" : ""}`}
    >
      {children}
    </DropdownMenu.Item>
  );
}

export function MenuRule() {
  return <DropdownMenu.Separator className="my-1 border-t border-rule" />;
}
