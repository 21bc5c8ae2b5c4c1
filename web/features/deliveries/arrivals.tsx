"use client";
import { useRouter } from "next/navigation";
import { useRef, useState } from "react";
import { Button } from "@/ui/button";
import { bytes, duration } from "@/ui/words";
import { useUpload } from "./use-upload";

/** Where deliveries arrive: drop a zip or choose one; progress, speed and time left while it comes. */
export function Arrivals({ collection }: { collection: number }) {
  const router = useRouter();
  const [over, setOver] = useState(false);
  const [refused, setRefused] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const { state, start, pause, goOn, cancel } = useUpload(collection, (delivery) => delivery && router.push(`/c/${collection}/deliveries/${delivery}`));
  const take = (files: FileList | null) => {
    const file = files?.[0];
    if (!file) return;
    if (files.length > 1) return setRefused("One archive at a time. Pack the files into one, or bring them one after the other.");
    setRefused(null);
    start(file);
  };
  if (state) {
    const share = state.total > 0 ? state.sent / state.total : 0;
    const left = state.speed > 0 ? (state.total - state.sent) / state.speed : 0;
    return (
      <section aria-label="Upload" className="border-y border-rule bg-sheet px-5 py-4">
        <div className="flex items-baseline gap-3">
          <span className="min-w-0 truncate font-semibold">{state.name}</span>
          <span className="text-ink-2" aria-live="polite">
            {bytes(state.sent)} of {bytes(state.total)}
            {state.paused ? " · paused" : state.waiting ? " · the connection broke, trying again" : state.speed > 0 ? ` · ${bytes(state.speed)}/s · ${duration(left)} left` : ""}
          </span>
          <span className="ml-auto flex gap-2">
            {state.paused || state.error ? (
              <Button small look="go" onClick={goOn}>
                Go on
              </Button>
            ) : (
              <Button small onClick={pause}>
                Pause
              </Button>
            )}
            <Button small look="quiet" onClick={cancel}>
              Cancel
            </Button>
          </span>
        </div>
        <div className="mt-2.5 h-[6px] overflow-hidden rounded-sm bg-well" role="progressbar" aria-label={`Sending ${state.name}`} aria-valuemin={0} aria-valuemax={100} aria-valuenow={Math.round(share * 100)}>
          <div className="h-full bg-act" style={{ width: `${share * 100}%` }} />
        </div>
        {state.error ? <p className="mt-2 text-harm">{state.error}</p> : null}
      </section>
    );
  }
  return (
    <section
      aria-label="Take in a delivery"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        take(event.dataTransfer.files);
      }}
      className={`mx-5 flex items-center gap-4 rounded-md border border-dashed px-5 py-5 ${over ? "border-act bg-act-wash" : "border-rule-strong"}`}
    >
      <div>
        <p className="font-semibold">Drop a zip or tar of labeled images here</p>
        <p className="text-ink-2">COCO, VOC, YOLO, tables, masks, shards or folders named by class: any of seventeen formats, of any size. You see what was understood before anything is stored.</p>
        {refused ? <p className="mt-1 text-harm">{refused}</p> : null}
      </div>
      <input ref={input} type="file" accept=".zip,.tar,application/zip,application/x-tar" className="sr-only" aria-label="Archive to take in" tabIndex={-1} onChange={(event) => take(event.target.files)} />
      <Button look="go" className="ml-auto" onClick={() => input.current?.click()}>
        Choose an archive
      </Button>
    </section>
  );
}
