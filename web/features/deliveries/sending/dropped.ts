import { fromEvent } from "file-selector";
import type { Outgoing } from "./batches";

/** Files that were dropped or chosen, folders walked through, with their paths from the folder that was dropped. */
export async function droppedFiles(event: Event): Promise<Outgoing[]> {
  const files = await fromEvent(event);
  return files.flatMap((entry): Outgoing[] => {
    if (!(entry instanceof File)) return [];
    const { path: walked, webkitRelativePath: relative } = entry as File & { path?: string };
    const path = (relative || walked || entry.name).replace(/^\.?\/+/, "");
    return [{ path, file: entry }];
  });
}
