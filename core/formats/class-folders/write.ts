import type { Findings } from "../../model/finding";
import type { ClassInfo } from "../../model/item";
import type { Options, Outgoing, PackageSink, SizedItem } from "../format";
import { splitFromName } from "../../model/split-name";
import { shortenedName } from "../../model/short-name";
import { csvText } from "../csv/table";
import { UniqueNames } from "../unique-names";

/** Each class's folder: no slash, no name that means a place or a split, none longer than a disk takes. */
export function folderNames(classes: readonly ClassInfo[]): Map<string, string> {
  const taken = new Set<string>();
  return new Map(
    classes.map(({ name }) => {
      const plain = shortenedName(name.replaceAll(/[/\\\u0000]/g, "_").replace(/^\.{0,2}$/, "_"));
      const free = meansElse(plain) ? `${plain}_` : plain;
      let folder = free;
      for (let n = 2; taken.has(folder.toLowerCase()); n++) folder = `${free}_${n}`;
      taken.add(folder.toLowerCase());
      return [name, folder];
    }),
  );
}

/** True for folders that are read as a split or as having no class. */
function meansElse(folder: string): boolean {
  return splitFromName(folder) !== null || isUnlabeledFolder(folder);
}

/** True for the folders of images without a class. */
export function isUnlabeledFolder(folder: string): boolean {
  return /^_?unlabeled$/i.test(folder);
}

/** The list beside the folders that says what class each stands for, where that is not the folder's name. */
export const folderList = "folder-names.csv";

/** Objects become the image's class where they all agree; an image whose objects do not is left out. */
export function oneClass(item: SizedItem, options: Options, report: Findings, original: SizedItem): SizedItem | null {
  if (item.classes.length <= 1) return item;
  if (original.classes.length === 0) {
    report.add("loss-object", item.path, `holds ${item.classes.join(", ")}; the image is left out`);
    return null;
  }
  report.add("loss-image-class", item.path, `has ${item.classes.length} classes`);
  return options["multi"] === "first" ? { ...item, classes: item.classes.slice(0, 1) } : item;
}

/** Writes `<split>/<class>/<image>`; an image with several classes stands in each of their folders. */
export async function writeClassFolders(
  outgoing: Outgoing,
  sink: PackageSink,
  _options: Options,
  report: Findings,
): Promise<void> {
  const names = new UniqueNames();
  const folders = folderNames(outgoing.classes);
  const renamed = [...folders].filter(([name, folder]) => name !== folder);
  for await (const item of outgoing.items) {
    for (const name of item.classes.length > 0 ? item.classes : [null]) {
      const folder = `${item.split ? `${item.split}/` : ""}${name === null ? "unlabeled" : (folders.get(name) ?? name)}`;
      await sink.picture(`${folder}/${names.claim(folder, item.path)}`, item, {
        ...item,
        classes: name === null ? [] : [name],
      });
    }
  }
  for (const [name, folder] of renamed)
    report.add("folder-renamed", folder.slice(0, 60), `${folderList} says that it is "${name.slice(0, 60)}"`);
  if (renamed.length > 0)
    await sink.write(folderList, csvText([["folder", "name"], ...renamed.map(([name, folder]) => [folder, name])]));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "One folder a class, in one folder a split; the folder's name is the image's class.",
      ...(renamed.length > 0
        ? [`${folderList} says which class a folder stands for where its name could not be one.`]
        : []),
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}
