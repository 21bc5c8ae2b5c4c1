/** Classes and attributes by their names. */
import { attributeMisfit, missingAttributes, type AttributeSchema } from "../../model/attribute-schema";
import { ownEntry } from "../../model/own-entry";
import type { Snapshot } from "../../snapshot/snapshot";
import { lookAlikes } from "../../relabel/look-alike";
import { selecting } from "../../selection/dimensions";
import type { AttributeValue } from "../../model/item";
import { judgeObjects, localCheck, objectsIn, plural, type Check } from "../check";

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

/** Judges objects by their attributes and what their classes declare. */
function judgeAttributes(
  snapshot: Snapshot,
  isMeant: (schemas: readonly AttributeSchema[], attributes: Record<string, AttributeValue>) => boolean,
) {
  const schemas = schemasByClass(snapshot);
  if (schemas.size === 0) return () => null;
  return judgeObjects(snapshot, (object) => {
    const ofClass = schemas.get(snapshot.objectClass.at(object));
    return ofClass !== undefined && isMeant(ofClass, snapshot.attributesIn(snapshot.attributes.at(object)));
  });
}

export const attributeMissing = localCheck({
  code: "attribute-missing",
  severity: "warning",
  counts: "objects",
  means: "Objects without an attribute that their class requires and that has no usual value.",
  threshold: null,
  judge: (snapshot) =>
    judgeAttributes(snapshot, (schemas, attributes) => missingAttributes(schemas, attributes).length > 0),
  conclude: (proofs) => {
    const count = objectsIn(proofs);
    return {
      sentence: `${plural(count, "object lacks", "objects lack")} an attribute that its class requires.`,
      count,
    };
  },
});

export const attributeMisfits = localCheck({
  code: "attribute-misfit",
  severity: "warning",
  counts: "objects",
  means:
    "Objects with an attribute that does not read as what their class declares it to be: a number, yes or no, one of some values.",
  threshold: null,
  judge: (snapshot) =>
    judgeAttributes(snapshot, (schemas, attributes) =>
      schemas.some((schema) => {
        const value = ownEntry(attributes, schema.name);
        return value !== null && attributeMisfit(schema, value) !== null;
      }),
    ),
  conclude: (proofs) => {
    const count = objectsIn(proofs);
    const sentence = `${plural(count, "object has", "objects have")} an attribute that is not what the class declares.`;
    return { sentence, count };
  },
});

export const classesExclude = localCheck({
  code: "image-classes-exclude",
  severity: "warning",
  counts: "images",
  means: "Images with two image-level classes that stand under the same parent: siblings usually exclude each other.",
  threshold: null,
  judge: (snapshot) => {
    const parents = new Map(snapshot.classes.map(({ id, parent }) => [id, parent ?? null]));
    return (slot) => {
      const set = snapshot.classSet.at(slot);
      if (set === 0) return null;
      const over = snapshot.classesIn(set).flatMap((id) => parents.get(id) ?? []);
      return new Set(over).size < over.length ? [] : null;
    };
  },
  conclude: ({ length }) => ({
    sentence: `${plural(length, "image has", "images have")} two classes that exclude each other.`,
    count: length,
  }),
});
