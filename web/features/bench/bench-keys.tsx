"use client";
import { useEffect, useRef, type ReactNode } from "react";

/** Listens for keys wherever the focus is on the page; what is typed into a field stays there. */
export function BenchKeys({
  onKeyDown,
  onBareEnd,
  children,
}: {
  onKeyDown: (event: KeyboardEvent) => void;
  onBareEnd: () => void;
  children: ReactNode;
}) {
  const latest = useRef({ onKeyDown, onBareEnd });
  latest.current = { onKeyDown, onBareEnd };
  useEffect(() => {
    const down = (event: KeyboardEvent) => latest.current.onKeyDown(event);
    const up = (event: KeyboardEvent) => event.key === "`" && latest.current.onBareEnd();
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);
  return <>{children}</>;
}
