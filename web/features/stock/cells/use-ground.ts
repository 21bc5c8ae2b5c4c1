"use client";
import { useLayoutEffect, useRef, useState } from "react";

/** The element that cells lie on: how wide it is and how far down the page it begins, in pixels, as it changes. */
export function useGround(shown: unknown) {
  const ground = useRef<HTMLDivElement>(null);
  const [{ width, top }, setPlace] = useState({ width: 1240, top: 0 });
  useLayoutEffect(() => {
    const element = ground.current;
    if (!element) return;
    const measure = () => setPlace({ width: element.clientWidth, top: element.offsetTop });
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [shown]);
  return { ground, width, top };
}
