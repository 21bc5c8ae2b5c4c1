import { onEvent } from "@larder/server/jobs/events";

export const dynamic = "force-dynamic";

/** Server-sent events: one line whenever something changed. */
export function GET(request: Request): Response {
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          end();
        }
      };
      const stopHearing = onEvent((event) => send(`data: ${JSON.stringify(event)}\n\n`));
      // Silence makes proxies close a connection; a comment keeps it.
      const beat = setInterval(() => send(": still here\n\n"), 15_000);
      const end = () => {
        clearInterval(beat);
        stopHearing();
      };
      send(`retry: 1000\n\ndata: ${JSON.stringify({ kind: "job", collection: null })}\n\n`);
      request.signal.addEventListener("abort", () => {
        end();
        try {
          controller.close();
        } catch {
          // The reader has closed it already.
        }
      });
    },
  });
  return new Response(stream, {
    headers: {
      "content-type": "text/event-stream",
      "cache-control": "no-cache, no-transform",
      "x-accel-buffering": "no",
    },
  });
}
