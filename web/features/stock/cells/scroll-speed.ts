"use client";
/**
 * How fast the window is being scrolled. What goes by too fast to be read is drawn without its details, and what goes by
 * too fast to be seen without its picture; all come, a few at a time, once it stands still: so scrolling is never held up.
 */
import { startTransition, useEffect, useState } from "react";

/** Faster than this, in pixels a millisecond, or further in one step, in pixels, nobody reads: a view goes by within a second. */
const readable = { speed: 1.1, step: 200 };
/** After so many steps in a row that are faster than this nobody looks at a picture either. */
const racing = { speed: 3, steps: 2 };
/** It stands still after so many milliseconds without a step. */
const calmAfter = 120;
/** So many get their details in one frame. */
const shownAtOnce = 8;

let isFast = false;
/** Steps in a row that were too fast for a look at a picture. */
let racingSteps = 0;
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
  racingSteps = 0;
  calm = null;
  showSome();
}

function measure(): void {
  const [at, top] = [performance.now(), window.scrollY];
  const step = Math.abs(top - last.top);
  const speed = step / Math.max(1, at - last.at);
  if (step > readable.step || speed > readable.speed) isFast = true;
  // The first step after a rest may be a key's: what it jumps to is looked at.
  racingSteps = calm && speed > racing.speed ? racingSteps + 1 : 0;
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

/** How much of a cell is drawn: its ground, its picture too, or all of it. */
export type CellDetail = "ground" | "picture" | "whole";

const detailNow = (): CellDetail => (racingSteps >= racing.steps ? "ground" : isFast ? "picture" : "whole");

/** What the speed left of a cell as it came into view; all of it from when it stands still. */
export function useCellDetail(): CellDetail {
  const [detail, setDetail] = useState(detailNow);
  useEffect(() => {
    if (detail === "whole") return undefined;
    const show = () => setDetail("whole");
    waiting.add(show);
    if (!isFast && !calm) requestAnimationFrame(showSome);
    return () => void waiting.delete(show);
  }, [detail]);
  return detail;
}
