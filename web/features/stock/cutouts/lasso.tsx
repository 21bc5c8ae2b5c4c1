"use client";
import { useRef, useState, type PointerEvent, type ReactNode, type RefObject } from "react";

export type Frame = { left: number; top: number; right: number; bottom: number };

/** So far, in pixels, the pointer has to go before a press is a drag. */
const slack = 6;

/** A ground over which a frame can be drawn; `onFrame` hears it, in the ground's pixels, when it is let go. */
export function Lasso({
  ground,
  onFrame,
  children,
}: {
  ground: RefObject<HTMLDivElement | null>;
  onFrame: (frame: Frame, keep: boolean) => void;
  children: ReactNode;
}) {
  const start = useRef<{ x: number; y: number } | null>(null);
  const [frame, setFrame] = useState<Frame | null>(null);
  const placeOf = (event: PointerEvent) => {
    const box = ground.current?.getBoundingClientRect();
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  };
  return (
    <div
      className="relative select-none"
      onPointerDown={(event) => {
        if (event.button === 0 && event.pointerType === "mouse") start.current = placeOf(event);
      }}
      onPointerMove={(event) => {
        const from = start.current;
        if (!from) return;
        const to = placeOf(event);
        if (!frame && Math.hypot(to.x - from.x, to.y - from.y) < slack) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        setFrame({
          left: Math.min(from.x, to.x),
          right: Math.max(from.x, to.x),
          top: Math.min(from.y, to.y),
          bottom: Math.max(from.y, to.y),
        });
      }}
      onPointerUp={(event) => {
        start.current = null;
        if (frame) onFrame(frame, event.shiftKey || event.ctrlKey || event.metaKey);
        setFrame(null);
      }}
      onClickCapture={(event) => {
        // The end of a drag is no click on what lies under it.
        if (frame) event.stopPropagation();
      }}
    >
      {children}
      {frame ? (
        <span
          aria-hidden="true"
          className="pointer-events-none absolute border border-act bg-act/15"
          style={{
            left: frame.left,
            top: frame.top,
            width: frame.right - frame.left,
            height: frame.bottom - frame.top,
          }}
        />
      ) : null}
    </div>
  );
}
