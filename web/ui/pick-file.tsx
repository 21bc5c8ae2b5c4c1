"use client";
import { useRef, type ReactNode } from "react";
import { Button } from "./button";

/**
 * A button that asks for one file of some kinds; the same file can be chosen twice. `label` names the field to those
 * who do not see it.
 */
export function PickFile({
  label,
  accept,
  onPick,
  quiet = false,
  children,
}: {
  label: string;
  accept: string;
  onPick: (file: File) => void;
  quiet?: boolean;
  children: ReactNode;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) onPick(file);
          event.target.value = "";
        }}
      />
      <Button
        small
        {...(quiet ? { look: "quiet" as const } : {})}
        className="ml-auto"
        onClick={() => input.current?.click()}
      >
        {children}
      </Button>
    </>
  );
}
