import type { FileSink } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import type { Options, Outgoing, Totals } from "../format";
import { UniqueNames } from "../unique-names";

/** Writes `<split>/<class>/<image>`. Object labels become the image's class where they all agree; else the image is left out. */
export async function writeClassFolders(outgoing: Outgoing, sink: FileSink, options: Options, report: Findings): Promise<Totals> {
  const names = new UniqueNames();
  let images = 0;
  for await (const item of outgoing.items) {
    const fromObjects = [...new Set(item.objects.map((object) => object.class))];
    if (item.classes.length === 0 && fromObjects.length > 1) {
      report.add("loss-object", item.path, `holds ${fromObjects.join(", ")}; the image is left out`);
      continue;
    }
    const classes = item.classes.length > 0 ? item.classes : fromObjects;
    const folders = classes.length === 0 ? ["unlabeled"] : options["multi"] === "first" ? classes.slice(0, 1) : classes;
    if (classes.length > 1) report.add("loss-image-class", item.path, `has ${classes.length} classes`);
    for (const folder of folders) {
      const inside = `${item.split ? `${item.split}/` : ""}${folder.replaceAll("/", "_")}`;
      await sink.write(`${inside}/${names.claim(inside, item.path)}`, await item.open());
      images++;
    }
  }
  await sink.write("README.txt", [outgoing.title, "", "One folder a class, in one folder a split; the folder's name is the image's class.", ...outgoing.notes, ""].join("\n"));
  return { images, objects: 0 };
}
