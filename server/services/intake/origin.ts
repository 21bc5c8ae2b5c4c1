/**
 * Opens where a delivery comes from: whatever it is, it becomes a file tree, and all that follows is the same for all.
 */
import type { Reading } from "@larder/core/formats/format";
import type { IntakeChoices } from "@larder/core/intake/choices";
import { readAddressList } from "@larder/core/intake/address-list";
import { Failure } from "@larder/core/model/failure";
import { isImagePath, type FileTree } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import type { Item, LabeledObject } from "@larder/core/model/item";
import { existsSync } from "node:fs";
import { readFile, realpath, stat } from "node:fs/promises";
import path from "node:path";
import type { Delivery } from "../../db/schema";
import { AddressTree } from "../../files/address-tree";
import { FolderTree } from "../../files/folder-tree";
import { MountedTree } from "../../files/mounted-tree";
import { TextFile } from "../../files/text-file";
import { settings } from "../../settings";
import { fromCollection } from "./from-collection";
import { uploadFolder } from "./sent-files";
import { sampleFolder } from "./samples";
import { knownFiles, stockFiles, StockTree } from "./stock-tree";
import { unpackFolder } from "./uploaded-files";

export type OpenedOrigin = {
  tree: FileTree;
  /** What the origin says of its own images, where no annotation file has to be understood. */
  reading?: { reason: string; read: () => Promise<Reading> };
  /** Only images that something is said about come in: annotations for what is in stock. */
  onlyLabeled: boolean;
  /** Labels that the source itself holds for a picture, beside any annotation. */
  words: (path: string) => Promise<LabeledObject[]> | null;
  /** What changes when a file changes, of sources that are scanned again. */
  stampOf: (path: string) => string | null;
  /** Where a picture stays that is kept as a link. */
  linkOf: (path: string) => string | null;
  close: () => void;
};

const plain = {
  onlyLabeled: false,
  words: () => null,
  stampOf: () => null,
  linkOf: () => null,
  close: () => undefined,
};

/** Under this name a reader finds what a list of addresses says of its pictures. */
const labelsOfAddresses = "addresses.csv";

/** The file that holds a list of addresses, in its delivery's folder. */
export const addressListFile = "addresses.txt";

/** The place of a folder that deliveries may be read from, by its name in the settings. */
function rootNamed(name: string): string {
  const root = settings().folders.find((folder) => folder.name === name);
  if (!root)
    throw new Failure("folder-refused", `${name} is not among the folders that may be read (LARDER_FOLDERS).`, 403);
  return root.place;
}

/** A folder under one of the configured roots. Throws a Failure where it leads out of it or is not there. */
export async function serverFolder(rootName: string, relative: string): Promise<string> {
  const root = rootNamed(rootName);
  const name = path.posix.join(rootName, relative);
  const [top, full] = await Promise.all([realpath(root), realpath(path.join(root, relative))]).catch(() => {
    throw new Failure("folder-missing", `There is no folder ${name}.`, 404);
  });
  if (full !== top && !full.startsWith(top + path.sep))
    throw new Failure("folder-refused", `${relative} leads out of ${rootName}.`, 403);
  if (!(await stat(full)).isDirectory()) throw new Failure("folder-missing", `${name} is not a folder.`, 404);
  return full;
}

async function openFiles(
  delivery: Delivery,
  folder: string,
  choices: IntakeChoices,
  report: Findings,
): Promise<OpenedOrigin> {
  if (!existsSync(folder))
    throw new Failure("archive-missing", "The files of this delivery are not there any more. Send them again.");
  const known = await knownFiles(delivery.id);
  const unpacked = await unpackFolder(
    folder,
    choices.pageResolution,
    report,
    known.length > 0 ? [{ at: "", tree: new StockTree(known) }] : [],
  );
  return { ...plain, ...unpacked };
}

/** Opens a delivery's origin. Throws a Failure where it is gone, refused or broken. */
export async function openOrigin(delivery: Delivery, choices: IntakeChoices, report: Findings): Promise<OpenedOrigin> {
  const { origin } = delivery;
  switch (origin.kind) {
    case "files":
      return openFiles(delivery, uploadFolder(delivery.id), choices, report);
    case "sample":
      return openFiles(delivery, sampleFolder(origin.sample), choices, report);
    case "folder": {
      const folder = await serverFolder(origin.root, origin.path);
      const tree = new FolderTree(folder);
      const unpacked = await unpackFolder(folder, choices.pageResolution, report);
      const stampOf = (file: string): string | null => {
        try {
          return tree.stampOf(file);
        } catch {
          return null;
        }
      };
      return { ...plain, ...unpacked, stampOf };
    }
    case "bucket": {
      const access = settings().buckets.find(({ name }) => name === origin.bucket);
      if (!access)
        throw new Failure(
          "bucket-missing",
          `There is no bucket called ${origin.bucket} in the settings (LARDER_BUCKETS).`,
        );
      // The store's client is large; it is only loaded where a bucket is read.
      const { BucketTree } = await import("../../files/bucket-tree");
      const tree = new BucketTree(access, origin.prefix, report, settings().addresses.timeout);
      return { ...plain, tree, stampOf: (file) => tree.stampOf(file), close: () => tree.close() };
    }
    case "addresses": {
      const { addresses, labels } = readAddressList(
        await readFile(path.join(uploadFolder(delivery.id), addressListFile), "utf8"),
      );
      const pictures = new AddressTree(addresses, settings().addresses);
      const tree =
        labels === null
          ? pictures
          : new MountedTree([
              { at: "", tree: new TextFile(labelsOfAddresses, labels) },
              { at: "", tree: pictures },
            ]);
      return { ...plain, tree, linkOf: (file) => (origin.keep === "link" ? pictures.addressOf(file) : null) };
    }
    case "collection":
      return { ...plain, ...(await fromCollection(origin)) };
  }
}

/** The origin with the collection's own pictures beside it, for annotations that came alone. */
export async function withStock(opened: OpenedOrigin, collectionId: number): Promise<OpenedOrigin> {
  const stock = await stockFiles(collectionId);
  if (stock.length === 0) return opened;
  return {
    ...opened,
    onlyLabeled: true,
    tree: new MountedTree([
      { at: "", tree: opened.tree },
      { at: "", tree: new StockTree(stock) },
    ]),
  };
}

/** An item with the words that its page holds. */
export async function withWords(opened: OpenedOrigin, item: Item): Promise<Item> {
  // A page whose words cannot be read is found out when its picture is looked at.
  const words = isImagePath(item.path)
    ? await opened.words(item.path)?.catch((error: unknown) => {
        if (error instanceof Failure) return [];
        throw error;
      })
    : null;
  if (!words || words.length === 0) return item;
  return { ...item, state: "labeled", objects: [...item.objects, ...words] };
}
