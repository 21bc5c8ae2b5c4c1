/** The names and values that a snapshot's stock has, for completing selections. */
import type { AttributeValue } from "../model/item";
import type { Known, Vocabulary } from "../selection/vocabulary";
import type { Selection } from "../selection/chosen";
import { facetsOf } from "./facets";
import type { Snapshot } from "./snapshot";

/** So many values of one attribute are offered, those met most often first. */
const mostValues = 50;
/** Beyond this many different sets of attributes the rest is not looked through: each value is nearly its own. */
const mostSets = 20_000;

const everything: Selection = { where: "", only: null, except: [] };

function ranked(counts: ReadonlyMap<string, number>, most = Infinity): Known[] {
  return [...counts]
    .map(([value, count]) => ({ value, count }))
    .sort((a, b) => b.count - a.count || (a.value < b.value ? -1 : 1))
    .slice(0, most);
}

const textsOf = (value: AttributeValue): string[] =>
  typeof value === "boolean" ? [value ? "yes" : "no"] : Array.isArray(value) ? value : [String(value)];

/** Attributes with their values, from how many carry each set of them. */
function attributesFrom(snapshot: Snapshot, counts: Uint32Array): Vocabulary["image"] {
  const byName = new Map<string, Map<string, number>>();
  for (let code = 1; code < Math.min(counts.length, mostSets); code++) {
    const count = counts[code] as number;
    if (count === 0) continue;
    for (const [name, value] of Object.entries(snapshot.attributesIn(code))) {
      const values = byName.get(name) ?? new Map<string, number>();
      byName.set(name, values);
      for (const text of textsOf(value)) values.set(text, (values.get(text) ?? 0) + count);
    }
  }
  for (const name of snapshot.declaredAttributes) if (!byName.has(name)) byName.set(name, new Map());
  return [...byName]
    .map(([name, values]) => ({ name, values: ranked(values, mostValues) }))
    .sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** How many slots, images in stock alone, have each code of a set of texts. */
function setCounts(snapshot: Snapshot, textsIn: (slot: number) => readonly string[]): Known[] {
  const counts = new Map<string, number>();
  for (let slot = 0; slot < snapshot.length; slot++) {
    if (snapshot.present.at(slot) === 0) continue;
    for (const text of textsIn(slot)) counts.set(text, (counts.get(text) ?? 0) + 1);
  }
  return ranked(counts);
}

export function vocabularyOf(snapshot: Snapshot): Vocabulary {
  const facets = facetsOf(snapshot, everything);
  const ofImages = new Uint32Array(snapshot.attributeTexts.size);
  const ofObjects = new Uint32Array(snapshot.attributeTexts.size);
  for (let slot = 0; slot < snapshot.length; slot++) {
    if (snapshot.present.at(slot) === 0) continue;
    (ofImages[snapshot.imageAttributes.at(slot)] as number)++;
    const first = snapshot.firstObject.at(slot);
    for (let at = first; at < first + snapshot.objectCount.at(slot); at++)
      (ofObjects[snapshot.attributes.at(at)] as number)++;
  }
  const names = new Map(snapshot.classes.map(({ id, name }) => [id, name]));
  const said = (counts: readonly { key: string; count: number }[]): Known[] =>
    counts.filter(({ key }) => key !== "").map(({ key, count }) => ({ value: key, count }));
  const recorded = (counts: Readonly<Record<string, number>>): Known[] =>
    Object.entries(counts).map(([value, count]) => ({ value, count }));
  const deliveries = new Map<string, number>();
  for (const { name, count } of facets.delivery) deliveries.set(name, (deliveries.get(name) ?? 0) + count);
  return {
    classes: facets.class.map(({ name, count }) => ({ value: name, count })),
    fields: {
      split: recorded(facets.split),
      state: recorded(facets.state),
      class: setCounts(snapshot, (slot) => {
        const code = snapshot.classSet.at(slot);
        return code === 0 ? [] : snapshot.classesIn(code).flatMap((id) => names.get(id) ?? []);
      }),
      tag: said(facets.tag),
      delivery: ranked(deliveries),
      source: said(facets.source),
      licence: said(facets.licence),
      camera: said(facets.camera),
      place: said(facets.place),
      finding: setCounts(snapshot, (slot) => snapshot.textsIn(snapshot.findingSet.at(slot))),
    },
    image: attributesFrom(snapshot, ofImages),
    object: attributesFrom(snapshot, ofObjects),
  };
}
