/** What a format cannot carry, computed from its declaration and the items before anything is written. */
import type { Findings } from "../model/finding";
import type { Item } from "../model/item";
import type { ShapeKind } from "../model/shape";
import type { Carries } from "./format";

const lossOfShape: Record<Exclude<ShapeKind, "box">, "loss-polygon" | "loss-mask" | "loss-keypoints" | "loss-rotation" | "loss-object"> = {
  polygon: "loss-polygon",
  mask: "loss-mask",
  keypoints: "loss-keypoints",
  "rotated-box": "loss-rotation",
  line: "loss-object",
};

/** Adds to `report` what of `item` a format with these abilities loses. */
export function announceLosses(item: Pick<Item, "path" | "split" | "objects" | "classes" | "captions" | "fields">, carries: Carries, report: Findings): void {
  if (item.split === null && !carries.noSplit) report.add("loss-split", item.path);
  if (item.classes.length > 0 && !carries.imageClasses) report.add("loss-image-class", item.path, item.classes.join(", "));
  if ((item.captions.length > 0 || Object.keys(item.fields).length > 0) && !carries.captions) report.add("loss-caption", item.path);
  for (const object of item.objects) {
    if (carries.shapes.length === 0) {
      report.add("loss-object", item.path, object.class);
      continue;
    }
    const { shape } = object;
    const holed = shape.kind === "polygon" && shape.parts.some((part) => part.length > 1);
    if (!carries.shapes.includes(shape.kind) && shape.kind !== "box") report.add(holed ? "loss-mask" : lossOfShape[shape.kind], item.path, object.class);
    else if (holed && !carries.holes) report.add("loss-mask", item.path, object.class);
    if (object.attributes && !carries.attributes) report.add("loss-attributes", item.path, object.class);
  }
}
