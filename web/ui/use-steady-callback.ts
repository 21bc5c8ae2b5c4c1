"use client";
import { useCallback, useLayoutEffect, useRef } from "react";

/** A function that stays the same between renderings and calls the latest one given: what it is handed to need not be drawn again. */
export function useSteadyCallback<A extends unknown[], R>(callback: (...args: A) => R): (...args: A) => R {
  const latest = useRef(callback);
  useLayoutEffect(() => {
    latest.current = callback;
  });
  return useCallback((...args: A) => latest.current(...args), []);
}
