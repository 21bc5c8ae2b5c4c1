import { revisions } from "@larder/server/services/collections";
import { changesFor } from "@larder/server/services/jobs";
import { answer } from "@/edge/answer";

export const dynamic = "force-dynamic";

/** Server-sent events: one line whenever something changed. */
export const GET = answer(({ request, actor }) => {
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
      const stopHearing = changesFor(actor, (event) => send(`data: ${JSON.stringify(event)}\n\n`));
      // Silence makes proxies close a connection, and pages open a new one.
      const beat = setInterval(() => send("event: beat\ndata:\n\n"), 15_000);
      const end = () => {
        clearInterval(beat);
        stopHearing();
      };
      send("retry: 1000\n\n");
      // A page that was away compares these with what it knows, and fetches what went on without it.
      void revisions(actor).then((known) => send(`event: revisions\ndata: ${JSON.stringify(known)}\n\n`));
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
  const response = new Response(stream, {
    headers: {
      "content-type": "text/event-stream",
      "cache-control": "no-cache, no-transform",
      "x-accel-buffering": "no",
    },
  });
  return Promise.resolve(response);
});
