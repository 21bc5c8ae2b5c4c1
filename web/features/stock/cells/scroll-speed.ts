"use client";
/**
 * How fast the window is being scrolled. What goes by too fast to be read is drawn without its details, which come, a few
 * at a time, once it stands still: so scrolling itself is never held up.
 */
import { startTransition, useEffect, useState } from "react";

/** Faster than this, in pixels a millisecond, or further in one step, in pixels, nobody reads. */
const readable = { speed: 3, step: 200 };
/** It stands still after so many milliseconds without a step. */
const calmAfter = 120;
/** So many get their details in one frame. */
const shownAtOnce = 8;

let isFast = false;
let calm: ReturnType<typeof setTimeout> | null = null;
let last = { at: 0, top: 0 };
const waiting = new Set<() => void>();

function showSome(): void {
  if (isFast) return;
  startTransition(() => {
    for (const show of [...waiting].slice(0, shownAtOnce)) {
      waiting.delete(show);
      show();
    }
  });
  if (waiting.size > 0) requestAnimationFrame(showSome);
}

function stop(): void {
  isFast = false;
  calm = null;
  showSome();
}

function measure(): void {
  const [at, top] = [performance.now(), window.scrollY];
  const step = Math.abs(top - last.top);
  if (step > readable.step || step > readable.speed * Math.max(1, at - last.at)) isFast = true;
  last = { at, top };
  if (calm) clearTimeout(calm);
  calm = setTimeout(stop, calmAfter);
}

/** Whether it goes by so fast just now that nobody reads. */
export const isScrolledFast = (): boolean => isFast;

/** Goes by the window's scrolling as long as the caller is shown. */
export function useScrollSpeed(): void {
  useEffect(() => {
    last = { at: performance.now(), top: window.scrollY };
    window.addEventListener("scroll", measure, { capture: true, passive: true });
    return () => window.removeEventListener("scroll", measure, { capture: true });
  }, []);
}

/** False for what came into view while it went by fast; true from when it stands still. */
export function useDetailed(): boolean {
  const [detailed, setDetailed] = useState(() => !isFast);
  useEffect(() => {
    if (detailed) return undefined;
    const show = () => setDetailed(true);
    waiting.add(show);
    if (!isFast && !calm) requestAnimationFrame(showSome);
    return () => void waiting.delete(show);
  }, [detailed]);
  return detailed;
}
