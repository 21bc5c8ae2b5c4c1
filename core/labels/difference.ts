/** The steps from one set of labels to another, and from what is in stock to what a delivery says. */
import { canonicalJson } from "../versions/canonical-json";
import { objectFlags } from "../model/item";
import { ownEntry } from "../model/own-entry";
import { applySteps, stateStep } from "./apply";
import { saysSomething, type Labels, type StockObject } from "./labels";
import type { Step } from "./step";

/** What makes two objects the same, whatever their uids: class and shape. */
function sameness(object: Pick<StockObject, "class" | "shape">): string {
  return canonicalJson([object.class, object.shape]);
}

/** Attributes and flags of `wanted` that `present` does not have like that. */
function detailSteps(present: StockObject, wanted: StockObject): Step[] {
  const steps: Step[] = [];
  const { uid } = present;
  for (const name of new Set([...Object.keys(present.attributes ?? {}), ...Object.keys(wanted.attributes ?? {})])) {
    const value = ownEntry(wanted.attributes, name);
    if (canonicalJson(ownEntry(present.attributes, name)) !== canonicalJson(value))
      steps.push({ do: "set-attribute", uid, name, value });
  }
  for (const flag of objectFlags)
    if (present[flag] !== wanted[flag]) steps.push({ do: "set-flag", uid, flag, value: wanted[flag] ?? null });
  return steps;
}

/**
 * Objects that are the same (class and shape) keep their uids, and take over attributes and flags; the others are
 * removed and added.
 */
function objectSteps(present: readonly StockObject[], wanted: readonly StockObject[], remove: boolean): Step[] {
  const waiting = new Map<string, StockObject[]>();
  for (const object of wanted) {
    const same = waiting.get(sameness(object));
    if (same) same.push(object);
    else waiting.set(sameness(object), [object]);
  }
  const steps: Step[] = [];
  for (const object of present) {
    const same = waiting.get(sameness(object))?.shift();
    if (same) steps.push(...(remove ? detailSteps(object, same) : []));
    else if (remove) steps.push({ do: "remove-object", uid: object.uid });
  }
  // Those that stay keep their places; newcomers are drawn over them.
  let order = present.reduce((highest, object) => Math.max(highest, object.order), -1);
  const left = new Set([...waiting.values()].flat());
  for (const object of wanted)
    if (left.has(object)) steps.push({ do: "add-object", object: { ...object, order: ++order } });
  return steps;
}

/** What a delivery says of an image that is in stock: labels under the collection's classes, with uids of their own. */
export type Incoming = Pick<Labels, "objects" | "classes" | "captions" | "fields" | "state">;

/** The steps that give an image exactly what `incoming` says; split, tags and what models said stay. */
export function replaceSteps(present: Labels, incoming: Incoming): Step[] {
  const steps = objectSteps(present.objects, incoming.objects, true);
  for (const id of present.classes) if (!incoming.classes.includes(id)) steps.push({ do: "remove-class", class: id });
  for (const id of incoming.classes) if (!present.classes.includes(id)) steps.push({ do: "add-class", class: id });
  if (canonicalJson(present.captions) !== canonicalJson(incoming.captions))
    steps.push({ do: "set-caption", captions: [...incoming.captions] });
  for (const name of new Set([...Object.keys(present.fields), ...Object.keys(incoming.fields)])) {
    const value = ownEntry(incoming.fields, name);
    const before = ownEntry(present.fields, name);
    if (canonicalJson(before) !== canonicalJson(value)) steps.push({ do: "set-field", name, value });
  }
  const state = saysSomething({ ...present, ...incoming })
    ? "labeled"
    : incoming.state === "labeled"
      ? "empty"
      : incoming.state;
  if (present.state !== state) steps.push({ do: "set-state", state });
  return steps;
}

/** The steps that add what `incoming` says and the image does not say yet; nothing is taken away. */
export function addSteps(present: Labels, incoming: Incoming): Step[] {
  const steps = objectSteps(present.objects, incoming.objects, false);
  for (const id of incoming.classes) if (!present.classes.includes(id)) steps.push({ do: "add-class", class: id });
  const captions = [...new Set([...present.captions, ...incoming.captions])];
  if (captions.length > present.captions.length) steps.push({ do: "set-caption", captions });
  for (const [name, value] of Object.entries(incoming.fields))
    if (canonicalJson(ownEntry(present.fields, name)) !== canonicalJson(value))
      steps.push({ do: "set-field", name, value });
  const settled = stateStep(applySteps(present, steps).after);
  return settled ? [...steps, settled] : steps;
}
