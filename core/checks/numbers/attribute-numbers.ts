/** What is said of objects beyond their class: attributes, and which of their keypoints can be seen. */
import { eachObject, type CheckedStock } from "../check";
import { attributeIs, Counts, type Bar } from "./bars";

export type AttributeNumbers = { name: string; bars: Bar[] };
/** Of a class with keypoints how often each is visible, hidden or not there. */
export type KeypointNumbers = {
  name: string;
  keypoints: { name: string; visible: number; hidden: number; absent: number }[];
};

/** As many values of an attribute, and as many attributes, are shown. */
const mostValues = 20;
const mostAttributes = 30;

/** Values of the attributes of objects, attributes that are said most often first. */
export function attributeNumbers({ snapshot, slots }: CheckedStock): AttributeNumbers[] {
  const byName = new Map<string, { counts: Counts; total: number }>();
  for (const slot of slots)
    eachObject(snapshot, slot, (object) => {
      const code = snapshot.attributes.at(object);
      if (code === 0) return;
      for (const [name, value] of Object.entries(snapshot.attributesIn(code)))
        for (const one of [value].flat()) {
          const entry = byName.get(name) ?? { counts: new Counts(), total: 0 };
          byName.set(name, entry);
          entry.total++;
          entry.counts.add(typeof one === "boolean" ? (one ? "yes" : "no") : String(one), snapshot.ids.at(slot));
        }
    });
  return [...byName]
    .sort(([a, { total: of }], [b, { total: ofOther }]) => ofOther - of || (a < b ? -1 : 1))
    .slice(0, mostAttributes)
    .map(([name, { counts }]) => ({
      name,
      bars: counts.mostFrequent(mostValues, (value) => `has any (${attributeIs(name, value)})`),
    }));
}

export function keypointNumbers({ snapshot, slots }: CheckedStock): KeypointNumbers[] {
  const counts = new Map(
    snapshot.classes.flatMap(({ id, name, keypoints = [] }) =>
      keypoints.length > 0
        ? [
            [
              snapshot.classIndex(id),
              { name, keypoints: keypoints.map((one) => ({ name: one, visible: 0, hidden: 0, absent: 0 })) },
            ] as const,
          ]
        : [],
    ),
  );
  if (counts.size === 0 || snapshot.keypoints.size === 0) return [];
  for (const slot of slots)
    eachObject(snapshot, slot, (object) => {
      const points = snapshot.keypoints.get(snapshot.objectId.at(object));
      const ofClass = counts.get(snapshot.objectClass.at(object));
      if (points)
        ofClass?.keypoints.forEach((entry, n) => {
          const v = points[n]?.v ?? 0;
          entry[v === 2 ? "visible" : v === 1 ? "hidden" : "absent"]++;
        });
    });
  return [...counts.values()].filter(({ keypoints }) => keypoints.some((one) => one.visible + one.hidden > 0));
}
