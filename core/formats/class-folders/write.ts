import type { Findings } from "../../model/finding";
import type { ClassInfo } from "../../model/item";
import type { Options, Outgoing, PackageSink, SizedItem } from "../format";
import { UniqueNames } from "../unique-names";

/** Class names as folders: no slash, no name that means a place. */
export function folderNames(classes: readonly ClassInfo[]): ClassInfo[] {
  const names = new Set<string>();
  return classes.map((info) => {
    const plain = info.name.replaceAll(/[/\\\u0000]/g, "_").replace(/^\.{0,2}$/, "_");
    let name = plain;
    for (let n = 2; names.has(name); n++) name = `${plain}_${n}`;
    names.add(name);
    return { ...info, name };
  });
}

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
export async function writeClassFolders(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  for await (const item of outgoing.items) {
    for (const name of item.classes.length > 0 ? item.classes : [null]) {
      const folder = `${item.split ? `${item.split}/` : ""}${name ?? "unlabeled"}`;
      await sink.picture(`${folder}/${names.claim(folder, item.path)}`, item, {
        ...item,
        classes: name === null ? [] : [name],
      });
    }
  }
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "One folder a class, in one folder a split; the folder's name is the image's class.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}
