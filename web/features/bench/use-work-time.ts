"use client";
import { useEffect } from "react";
import { api } from "@/features/live/api";

/** Nobody works who has not moved for so long. */
const idleSeconds = 60;
const sentEvery = 20_000;

/** Counts how long somebody works on an image, and tells the server from time to time and at the end. */
export function useWorkTime(image: number | undefined): void {
  useEffect(() => {
    if (image === undefined) return;
    let seconds = 0;
    let since = performance.now();
    let lastMove = since;
    const count = () => {
      const now = performance.now();
      const until = Math.min(now, lastMove + idleSeconds * 1000);
      if (until > since && document.visibilityState === "visible") seconds += (until - since) / 1000;
      since = now;
    };
    const send = () => {
      count();
      if (seconds < 1) return;
      const body = { seconds: Math.min(3600, seconds) };
      seconds = 0;
      // Time that could not be told is lost; nothing hangs on it.
      void api(`/api/images/${image}/time`, { method: "POST", body }).catch(() => undefined);
    };
    const onMove = () => {
      count();
      lastMove = performance.now();
    };
    const events = ["pointermove", "pointerdown", "keydown", "wheel"] as const;
    for (const event of events) window.addEventListener(event, onMove, { passive: true });
    const timer = setInterval(send, sentEvery);
    return () => {
      for (const event of events) window.removeEventListener(event, onMove);
      clearInterval(timer);
      send();
    };
  }, [image]);
}
