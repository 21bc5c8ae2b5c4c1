"use client";
import { useEffect, useRef, useState } from "react";
import * as tus from "tus-js-client";

export type UploadState = { name: string; sent: number; total: number; speed: number; paused: boolean; waiting: boolean; error: string | null };

const chunkBytes = 16 * 1024 * 1024;

/** One resumable upload: progress, speed over the last seconds, pause; a broken connection is tried again where it stopped. */
export function useUpload(collection: number, onArrived: (delivery: number | null) => void) {
  const [state, setState] = useState<UploadState | null>(null);
  const upload = useRef<tus.Upload | null>(null);
  const arrived = useRef(onArrived);
  arrived.current = onArrived;

  useEffect(() => {
    if (!state) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [state]);

  const start = (file: File) => {
    const samples: { at: number; sent: number }[] = [];
    setState({ name: file.name, sent: 0, total: file.size, speed: 0, paused: false, waiting: false, error: null });
    const next = new tus.Upload(file, {
      endpoint: "/api/uploads",
      chunkSize: chunkBytes,
      retryDelays: [0, 500, 1500, 3000, 5000, 10000, 20000, 30000, 60000],
      metadata: { filename: file.name, collection: String(collection) },
      removeFingerprintOnSuccess: true,
      onProgress: (sent, total) => {
        const now = performance.now();
        samples.push({ at: now, sent });
        while (samples.length > 2 && now - (samples[0]?.at ?? now) > 4000) samples.shift();
        const first = samples[0] ?? { at: now, sent };
        const speed = now > first.at ? ((sent - first.sent) / (now - first.at)) * 1000 : 0;
        setState((old) => old && { ...old, sent, total, speed, waiting: false, error: null });
      },
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        const again = status === 0 || status === 423 || status >= 500;
        if (again) setState((old) => old && { ...old, waiting: true });
        return again;
      },
      onError: (error) => {
        const said = "originalResponse" in error ? error.originalResponse?.getBody() : "";
        setState((old) => old && { ...old, waiting: false, error: said || "The connection was lost. What was sent is kept; go on when it is back." });
      },
      onSuccess: ({ lastResponse }) => {
        setState(null);
        arrived.current(Number(lastResponse.getHeader("larder-delivery")) || null);
      },
    });
    upload.current = next;
    // The same file, begun before and cut off, goes on from what the server has.
    void next.findPreviousUploads().then((previous) => {
      const begun = previous.find((entry) => entry.metadata["collection"] === String(collection));
      if (begun) next.resumeFromPreviousUpload(begun);
      next.start();
    });
  };
  const pause = () => {
    void upload.current?.abort();
    setState((old) => old && { ...old, paused: true, speed: 0 });
  };
  const goOn = () => {
    setState((old) => old && { ...old, paused: false, error: null });
    upload.current?.start();
  };
  const cancel = () => {
    void upload.current?.abort(true).catch(() => undefined);
    setState(null);
  };
  return { state, start, pause, goOn, cancel };
}
