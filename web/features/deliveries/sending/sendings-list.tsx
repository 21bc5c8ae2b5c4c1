"use client";
import { Button } from "@/ui/button";
import { bytes, duration, number } from "@/ui/words";
import type { SendingState } from "./sending";
import { cancelSending, pauseSending, resumeSending, useSendings } from "./sendings";

function words(state: SendingState): string {
  const files = state.files > 1 ? ` · ${number(state.sentFiles)} of ${number(state.files)} files` : "";
  const spared = state.spared > 0 ? ` · ${number(state.spared)} in stock already` : "";
  const left = state.speed > 0 ? (state.total - state.sent) / state.speed : 0;
  const pace = state.paused
    ? " · paused"
    : state.waiting
      ? " · the connection broke, trying again"
      : state.step === "comparing"
        ? " · comparing with stock"
        : state.speed > 0
          ? ` · ${bytes(state.speed)}/s · ${duration(left)} left`
          : "";
  return `${bytes(state.sent)} of ${bytes(state.total)}${files}${spared}${pace}`;
}

/** What is being sent into a collection: progress, speed, time left; pause, go on, cancel. */
export function SendingsList({ collection }: { collection: number }) {
  const sendings = useSendings().filter((state) => state.collection === collection);
  return (
    <>
      {sendings.map((state) => {
        const share = state.total > 0 ? state.sent / state.total : 0;
        return (
          <section key={state.id} aria-label="Upload" className="mb-3 border-y border-rule bg-sheet px-5 py-4">
            <div className="flex items-baseline gap-3">
              <span className="min-w-0 truncate font-semibold">{state.name}</span>
              <span className="text-ink-2 tabular-nums" aria-live="polite">
                {words(state)}
              </span>
              <span className="ml-auto flex gap-2">
                {state.paused || state.error ? (
                  <Button small look="go" onClick={() => resumeSending(state.id)}>
                    Go on
                  </Button>
                ) : (
                  <Button small onClick={() => pauseSending(state.id)}>
                    Pause
                  </Button>
                )}
                <Button small look="quiet" onClick={() => cancelSending(state.id)}>
                  Cancel
                </Button>
              </span>
            </div>
            <div
              className="mt-2.5 h-[6px] overflow-hidden rounded-sm bg-well"
              role="progressbar"
              aria-label={`Sending ${state.name}`}
              aria-valuemin={0}
              aria-valuemax={100}
              aria-valuenow={Math.round(share * 100)}
            >
              <div className="h-full bg-act" style={{ width: `${share * 100}%` }} />
            </div>
            {state.error ? <p className="mt-2 text-harm">{state.error}</p> : null}
          </section>
        );
      })}
    </>
  );
}
