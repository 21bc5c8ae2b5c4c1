"use client";
import { useEffect, useSyncExternalStore } from "react";
import { Sending, type SendingOptions, type SendingState } from "./sending";

/** Every sending of this page; they go on while one walks from station to station. */
let all: Sending[] = [];
let shown: SendingState[] = [];
const listeners = new Set<() => void>();

function changed(): void {
  shown = all.filter(({ state }) => state.step !== "done").map(({ state }) => state);
  for (const listener of listeners) listener();
}

/** Begins to send files; returns at once. */
export function send(options: SendingOptions): void {
  const sending = new Sending(options, changed);
  all = [...all.filter(({ state }) => state.step !== "done"), sending];
  changed();
  void sending.run();
}

const find = (id: number) => all.find(({ state }) => state.id === id);

export function pauseSending(id: number): void {
  find(id)?.pause();
}

export function resumeSending(id: number): void {
  void find(id)?.run();
}

export function cancelSending(id: number): void {
  const sending = find(id);
  all = all.filter((other) => other !== sending);
  changed();
  void sending?.cancel();
}

const none: SendingState[] = [];
const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** What is being sent now; leaving the page while anything is asks first. */
export function useSendings(): SendingState[] {
  const sendings = useSyncExternalStore(
    subscribe,
    () => shown,
    () => none,
  );
  const busy = sendings.length > 0;
  useEffect(() => {
    if (!busy) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [busy]);
  return sendings;
}
