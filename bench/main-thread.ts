/** What keeps the main thread of a page busy, by the tracing of Chromium. */
import type { Page } from "playwright-core";

export type Task = { start: number; milliseconds: number };

/** Main-thread tasks of a page while something is done, in milliseconds of the trace's clock. */
export async function tasksDuring(page: Page, work: () => Promise<void>): Promise<Task[]> {
  const client = await page.context().newCDPSession(page);
  type Event = {
    name: string;
    ph: string;
    pid: number;
    tid: number;
    ts: number;
    dur?: number;
    args?: { name?: string };
  };
  const events: Event[] = [];
  client.on("Tracing.dataCollected", ({ value }) => events.push(...(value as unknown as Event[])));
  const done = new Promise((resolve) => client.once("Tracing.tracingComplete", resolve));
  await client.send("Tracing.start", {
    transferMode: "ReportEvents",
    categories: "toplevel,disabled-by-default-devtools.timeline,blink.user_timing,__metadata",
  });
  await page.evaluate(() => performance.mark("bench-page"));
  await work();
  await client.send("Tracing.end");
  await done;
  await client.detach();
  const marked = events.find(({ name }) => name === "bench-page");
  return events
    .filter(({ name, pid, tid }) => name.endsWith("RunTask") && pid === marked?.pid && tid === marked.tid)
    .map(({ ts, dur }) => ({ start: ts / 1000, milliseconds: (dur ?? 0) / 1000 }));
}

/** The longest task in each `window` milliseconds in which there was one of any size: what a person could feel of it. */
export function longestPerFrame(tasks: readonly Task[], window = 16): number[] {
  const longest = new Map<number, number>();
  for (const { start, milliseconds } of tasks) {
    const frame = Math.floor(start / window);
    longest.set(frame, Math.max(longest.get(frame) ?? 0, milliseconds));
  }
  return [...longest.values()].filter((value) => value >= 0.5);
}
