/** A file on its way: its path within the delivery, its bytes and how many they are. */
export type Outgoing = { path: string; file: File; size: number };

/** Files up to this size travel together; larger ones, and archives, go alone and can be resumed within. */
const smallFile = 8 * 1024 * 1024;
const batchBytes = 24 * 1024 * 1024;
const batchFiles = 250;
const archive = /\.(zip|tar|pdf|parquet|rec|tfrecords?)$/i;

/** Whether a file is sent in chunks of its own. */
export function goesAlone({ path, size }: Outgoing): boolean {
  return size > smallFile || (size > 0 && archive.test(path));
}

/** Groups small files, in their order, so that no group holds more than 250 of them or 24 MB. */
export function batchesOf(files: readonly Outgoing[]): Outgoing[][] {
  const batches: Outgoing[][] = [];
  let bytes = 0;
  for (const entry of files) {
    const last = batches.at(-1);
    if (!last || last.length >= batchFiles || bytes + entry.size > batchBytes) {
      batches.push([entry]);
      bytes = entry.size;
    } else {
      last.push(entry);
      bytes += entry.size;
    }
  }
  return batches;
}

/**
 * What a delivery of these files is called after: the one file, the one folder they all lie in, or how many they are.
 */
export function sourceOf(files: readonly Outgoing[]): string {
  const [first] = files;
  if (!first) return "nothing";
  if (files.length === 1) return first.path.split("/").at(-1) ?? first.path;
  const top = first.path.split("/")[0] ?? "";
  if (first.path.includes("/") && files.every(({ path }) => path.startsWith(`${top}/`))) return top;
  return `${files.length.toLocaleString("en-US")} files`;
}
