/**
 * One stream of changes for all tabs: the tab that holds a lock listens to the server and tells the others. Where it
 * closes, another takes the lock. A stream that fell silent (the machine slept, the line was lost) is opened anew; what
 * went on meanwhile is told by the revisions that each new stream begins with.
 */
import type { LarderEvent } from "@larder/server/jobs/events";

/** The revision of each collection, as the server has it when a stream begins. */
export type Revisions = Record<string, number>;
export type Listener = { change: (event: LarderEvent) => void; revisions: (revisions: Revisions) => void };

type Message = { kind: "change"; event: LarderEvent } | { kind: "revisions"; revisions: Revisions };

const name = "larder-changes";
/** The server says that it is there every fifteen seconds. */
const silence = 40_000;

function tell(listener: Listener, message: Message): void {
  if (message.kind === "change") listener.change(message.event);
  else listener.revisions(message.revisions);
}

/** Listens to the server until the returned function is called. */
function openStream(heard: (message: Message) => void): () => void {
  let source: EventSource | null = null;
  let last = Date.now();
  const open = () => {
    source?.close();
    last = Date.now();
    source = new EventSource("/api/events");
    source.addEventListener("beat", () => (last = Date.now()));
    source.addEventListener("message", ({ data }: MessageEvent<string>) => {
      last = Date.now();
      heard({ kind: "change", event: JSON.parse(data) as LarderEvent });
    });
    source.addEventListener("revisions", ({ data }: MessageEvent<string>) => {
      last = Date.now();
      heard({ kind: "revisions", revisions: JSON.parse(data) as Revisions });
    });
  };
  const check = () => {
    if (Date.now() - last > silence || source?.readyState === EventSource.CLOSED) open();
  };
  open();
  const timer = setInterval(check, 5000);
  document.addEventListener("visibilitychange", check);
  window.addEventListener("online", open);
  return () => {
    clearInterval(timer);
    document.removeEventListener("visibilitychange", check);
    window.removeEventListener("online", open);
    source?.close();
  };
}

/** Hears of changes, by this tab's own stream or another's, until the returned function is called. */
export function listenForChanges(listener: Listener): () => void {
  // Locks exist where the address is trusted; elsewhere each tab listens for itself.
  if (!("locks" in navigator)) return openStream((message) => tell(listener, message));
  const channel = new BroadcastChannel(name);
  channel.addEventListener("message", ({ data }: MessageEvent<Message>) => tell(listener, data));
  const leaving = new AbortController();
  void navigator.locks
    .request(name, { signal: leaving.signal }, async () => {
      const close = openStream((message) => {
        channel.postMessage(message);
        tell(listener, message);
      });
      await new Promise((resolve) => leaving.signal.addEventListener("abort", resolve));
      close();
    })
    .catch(() => undefined);
  return () => {
    leaving.abort();
    channel.close();
  };
}
