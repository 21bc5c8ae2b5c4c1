"use client";
import { X } from "lucide-react";
import { Dialog as Primitive } from "radix-ui";
import { useRef, type ReactNode } from "react";
import { Button } from "./button";

const widths = { wide: "w-[min(720px,calc(100vw-40px))]", narrow: "w-[min(520px,calc(100vw-40px))]" };

/**
 * A question laid over the page; Escape, its cross and a click beside it close it, unless it has to be answered: then
 * `onOpenChange` is left out.
 */
export function Dialog({
  open,
  onOpenChange,
  title,
  description,
  wide = false,
  children,
}: {
  wide?: boolean;
  open: boolean;
  onOpenChange?: (open: boolean) => void;
  title: string;
  description?: ReactNode;
  children: ReactNode;
}) {
  // What is opened without a trigger of its own still gives the keyboard back to where it was.
  const opener = useRef<Element | null>(null);
  const wasOpen = useRef(false);
  if (typeof document !== "undefined" && open && !wasOpen.current) opener.current = document.activeElement;
  wasOpen.current = open;
  return (
    <Primitive.Root open={open} {...(onOpenChange ? { onOpenChange } : {})}>
      <Primitive.Portal>
        <Primitive.Overlay className="fixed inset-0 z-40 bg-dim/45" />
        <Primitive.Content
          {...(description ? {} : { "aria-describedby": undefined })}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (opener.current instanceof HTMLElement) opener.current.focus();
          }}
          className={`fixed top-[14vh] outline-none left-1/2 z-50 max-h-[82vh] overflow-auto ${wide ? widths.wide : widths.narrow} -translate-x-1/2 rounded-md border border-rule-strong bg-sheet p-5`}
        >
          <Primitive.Title className="pr-8 font-title text-[17px] font-semibold">{title}</Primitive.Title>
          {onOpenChange ? (
            <Primitive.Close
              aria-label="Close"
              className="absolute top-4 right-4 grid size-7 place-items-center rounded-md text-ink-3 hover:bg-well hover:text-ink"
            >
              <X size={16} aria-hidden="true" />
            </Primitive.Close>
          ) : null}
          {description ? (
            <Primitive.Description className="mt-1.5 text-ink-2">{description}</Primitive.Description>
          ) : null}
          <div className="mt-4">{children}</div>
        </Primitive.Content>
      </Primitive.Portal>
    </Primitive.Root>
  );
}

/** Closes the dialog that it stands in, and changes nothing. */
export function DialogCancel() {
  return (
    <Primitive.Close asChild>
      <Button>Cancel</Button>
    </Primitive.Close>
  );
}
