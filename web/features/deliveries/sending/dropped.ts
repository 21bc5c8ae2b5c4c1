import { fromEvent } from "file-selector";
import type { Outgoing } from "./batches";

/** So long, in milliseconds, the page may be kept from doing anything else. */
const longestPause = 25;

/**
 * Files that were dropped or chosen, folders walked through, with their paths from the folder that was dropped.
 * `onSeen` hears now and then how many of how many were looked at.
 */
export async function droppedFiles(
  event: Event,
  onSeen: (seen: number, of: number) => void = () => undefined,
): Promise<Outgoing[]> {
  const files = await fromEvent(event);
  // The same files can be chosen once more: a field that holds them already would not say so.
  if (event.target instanceof HTMLInputElement) event.target.value = "";
  const dropped: Outgoing[] = [];
  let began = performance.now();
  for (const entry of files) {
    if (!(entry instanceof File)) continue;
    const { path: walked, webkitRelativePath: relative } = entry as File & { path?: string };
    const path = (relative || walked || entry.name).replace(/^\.?\/+/, "");
    // The first time a file is asked for its size the browser looks at the disk; of very many files the page would
    // stand still.
    dropped.push({ path, file: entry, size: entry.size });
    if (performance.now() - began < longestPause) continue;
    onSeen(dropped.length, files.length);
    await new Promise((resolve) => setTimeout(resolve));
    began = performance.now();
  }
  return dropped;
}
