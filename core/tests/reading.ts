import type { Format, Options, OutgoingItem } from "../formats/format";
import { settle } from "../formats/settle";
import { verifyPackage, writePackage } from "../formats/write-package";
import type { FileTree } from "../model/file-tree";
import { Findings } from "../model/finding";
import { blankItem, type ClassInfo, type Item, type LabeledObject, type Split } from "../model/item";
import { MemoryTree } from "./memory-tree";

/** Reads everything a format finds in a tree. */
export async function readAll(
  format: Format,
  files: FileTree,
  options: Options = {},
): Promise<{ classes: string[]; items: Map<string, Item>; report: Findings; codes: Record<string, number> }> {
  const report = new Findings();
  const reading = await format.read(files, options, report);
  const items = new Map<string, Item>();
  for await (const item of reading.items) items.set(item.path, item);
  return {
    classes: reading.classes.map(({ name }) => name),
    items,
    report,
    codes: Object.fromEntries(report.list().map(({ code, count }) => [code, count])),
  };
}

export const picture = new Uint8Array([0xff, 0xd8, 0xff]);

/** An item ready to be written. */
export function outgoing(
  path: string,
  split: Split | null,
  objects: LabeledObject[],
  size = { width: 960, height: 720 },
  more: Partial<Item> = {},
): OutgoingItem {
  return {
    ...blankItem(path),
    split,
    objects,
    state: objects.length > 0 ? "labeled" : "empty",
    ...more,
    size,
    open: () => Promise.resolve(picture),
  };
}

/** Writes items and reads them back, settled on their sizes. */
export async function roundTrip(
  format: Format,
  classes: ClassInfo[],
  items: OutgoingItem[],
  options: Options = {},
): Promise<{
  losses: Record<string, number>;
  tree: MemoryTree;
  back: Item[];
  classes: string[];
  codes: Record<string, number>;
}> {
  const tree = new MemoryTree({}, 4096);
  const stream = (async function* () {
    yield* items;
  })();
  const lost = new Findings();
  const written = await writePackage(format, { title: "Test", classes, notes: [], items: stream }, tree, options, lost);
  await verifyPackage(format, tree, written, options);
  const {
    classes: names,
    items: read,
    report,
    codes,
  } = await readAll(format, tree, format.readsBackWith?.(options) ?? {});
  const back = [...read.values()].map((item) => {
    const match = items.find((candidate) => candidate.path.split("/").pop() === item.path.split("/").pop()) ?? items[0];
    return settle(item, { ...(match as OutgoingItem).size, orientation: 1 }, report);
  });
  return {
    losses: Object.fromEntries(lost.list().map(({ code, count }) => [code, count])),
    tree,
    back,
    classes: names,
    codes,
  };
}
