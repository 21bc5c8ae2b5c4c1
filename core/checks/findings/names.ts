/** Classes and attributes by their names. */
import { attributeMisfit, missingAttributes, type AttributeSchema } from "../../model/attribute-schema";
import { ownEntry } from "../../model/own-entry";
import type { Snapshot } from "../../snapshot/snapshot";
import { lookAlikes } from "../../relabel/look-alike";
import { selecting } from "../../selection/dimensions";
import { objectsIn, plural, proofsWhere, type Check } from "../check";

export const classSimilar: Check = {
  code: "class-similar",
  severity: "warning",
  counts: "classes",
  means: "Two classes whose names differ only in case, space or plural.",
  threshold: null,
  *find({ snapshot }) {
    const ids = new Map(snapshot.classes.map(({ id, name }) => [name, id]));
    for (const [a, b] of lookAlikes(snapshot.classes.map(({ name }) => name)))
      yield {
        subject: `${a} ${b}`,
        sentence: `"${a}" and "${b}" look like one class.`,
        count: 1,
        proofs: [],
        where: selecting({ class: [b] }),
        mends: [
          {
            label: `Merge ${b} into ${a}`,
            request: { do: "merge", from: ids.get(b) as number, into: ids.get(a) as number },
          },
        ],
      };
  },
};

/** What classes declare of their attributes, by their indexes; classes that declare none are left out. */
const schemasByClass = (snapshot: Snapshot): Map<number, readonly AttributeSchema[]> =>
  new Map(
    snapshot.classes.flatMap(({ id, attributes = [] }) =>
      attributes.length > 0 ? [[snapshot.classIndex(id), attributes] as const] : [],
    ),
  );

export const attributeMissing: Check = {
  code: "attribute-missing",
  severity: "warning",
  counts: "objects",
  means: "Objects without an attribute that their class requires and that has no usual value.",
  threshold: null,
  *find(stock) {
    const { snapshot } = stock;
    const schemas = schemasByClass(snapshot);
    if (schemas.size === 0) return;
    const proofs = proofsWhere(stock, (object) => {
      const ofClass = schemas.get(snapshot.objectClass.at(object));
      return (
        ofClass !== undefined &&
        missingAttributes(ofClass, snapshot.attributesIn(snapshot.attributes.at(object))).length > 0
      );
    });
    const count = objectsIn(proofs);
    const sentence = `${plural(count, "object lacks", "objects lack")} an attribute that its class requires.`;
    if (count > 0) yield { subject: "", sentence, ...{ count, proofs, where: null } };
  },
};

export const attributeMisfits: Check = {
  code: "attribute-misfit",
  severity: "warning",
  counts: "objects",
  means:
    "Objects with an attribute that does not read as what their class declares it to be: a number, yes or no, one of some values.",
  threshold: null,
  *find(stock) {
    const { snapshot } = stock;
    const schemas = schemasByClass(snapshot);
    if (schemas.size === 0) return;
    const proofs = proofsWhere(stock, (object) => {
      const attributes = snapshot.attributesIn(snapshot.attributes.at(object));
      return (schemas.get(snapshot.objectClass.at(object)) ?? []).some((schema) => {
        const value = ownEntry(attributes, schema.name);
        return value !== null && attributeMisfit(schema, value) !== null;
      });
    });
    const count = objectsIn(proofs);
    const sentence = `${plural(count, "object has", "objects have")} an attribute that is not what the class declares.`;
    if (count > 0) yield { subject: "", sentence, ...{ count, proofs, where: null } };
  },
};

export const classesExclude: Check = {
  code: "image-classes-exclude",
  severity: "warning",
  counts: "images",
  means: "Images with two image-level classes that stand under the same parent: siblings usually exclude each other.",
  threshold: null,
  *find({ snapshot, slots }) {
    const parents = new Map(snapshot.classes.map(({ id, parent }) => [id, parent ?? null]));
    const isTorn = (slot: number) => {
      const set = snapshot.classSet.at(slot);
      if (set === 0) return false;
      const over = snapshot.classesIn(set).flatMap((id) => parents.get(id) ?? []);
      return new Set(over).size < over.length;
    };
    const torn = slots.filter(isTorn);
    const sentence = `${plural(torn.length, "image has", "images have")} two classes that exclude each other.`;
    if (torn.length > 0)
      yield {
        ...{ subject: "", sentence, count: torn.length, where: null },
        proofs: Array.from(torn, (slot) => ({ slot, objects: [] })),
      };
  },
};
