/** Texts in the fields of images, such as a total or a day, that do not read as the others of their field. */
import { fieldKinds, type FieldKind } from "../../model/field-kinds";
import { imagesAsProofs, plural, type Check, type CheckedStock } from "../check";

/** A field on fewer images says nothing of how it is to be read. */
const fewest = 10;

/** By the name of a field, which images read as what. */
function readings({ snapshot, slots }: CheckedStock): Map<string, Map<FieldKind, number[]>> {
  const byField = new Map<string, Map<FieldKind, number[]>>();
  for (const slot of slots)
    for (const [name, kind] of snapshot.fieldKindsOf(slot)) {
      const kinds = byField.get(name) ?? new Map<FieldKind, number[]>();
      byField.set(name, kinds);
      const list = kinds.get(kind);
      if (list) list.push(slot);
      else kinds.set(kind, [slot]);
    }
  return byField;
}

const asOne = { number: "a number", date: "a date", JSON: "JSON" } as const;

export const fieldMisfit: Check = {
  code: "field-misfit",
  severity: "warning",
  counts: "images",
  means: `Images with a text in a field that is no number, no date or no JSON, where so many texts of the field are: it cannot be parsed as the others. Fields on fewer than ${fewest} images are not judged.`,
  threshold: { unit: "% of the field's images", usual: 90, least: 51, most: 99, step: 1 },
  *find(stock, percent) {
    for (const [name, kinds] of readings(stock)) {
      const all = [...kinds.values()].reduce((sum, slots) => sum + slots.length, 0);
      if (all < fewest) continue;
      for (const kind of fieldKinds) {
        const alike = kinds.get(kind)?.length ?? 0;
        if (kind === "text" || alike === all || 100 * alike < percent * all) continue;
        const slots = [...kinds].flatMap(([other, list]) => (other === kind ? [] : list)).sort((a, b) => a - b);
        yield {
          subject: name,
          sentence: `${plural(slots.length, "image has", "images have")} a ${name} that does not read as ${asOne[kind]}, as on ${alike} others.`,
          ...{ count: slots.length, proofs: imagesAsProofs(slots), where: null },
        };
      }
    }
  },
};
