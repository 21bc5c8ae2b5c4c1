/** Applying steps to labels, and the steps that take them back. */
import { Failure } from "../model/failure";
import type { AttributeValue } from "../model/item";
import { ownEntry } from "../model/own-entry";
import { saysSomething, type Labels, type StockObject, type Suggestion } from "./labels";
import type { Step } from "./step";

function misfit(sentence: string): Failure {
  return new Failure("step-misfit", sentence, 409);
}

function objectOf(labels: Labels, uid: string): StockObject {
  const object = labels.objects.find((candidate) => candidate.uid === uid);
  if (!object) throw misfit("This object is not on the image any more.");
  return object;
}

function suggestionOf(labels: Labels, uid: string): Suggestion {
  const suggestion = labels.suggestions.find((candidate) => candidate.uid === uid);
  if (!suggestion) throw misfit("This suggestion is not on the image any more.");
  return suggestion;
}

const inDrawingOrder = (a: StockObject, b: StockObject) => a.order - b.order || (a.uid < b.uid ? -1 : 1);

/** The labels with one object replaced by what `change` makes of it. */
function changed(labels: Labels, uid: string, change: (object: StockObject) => StockObject): Labels {
  const former = objectOf(labels, uid);
  return { ...labels, objects: labels.objects.map((object) => (object === former ? change(object) : object)) };
}

/** A record with one entry set, or taken out where `value` is null. */
function withEntry<T>(record: Readonly<Record<string, T>>, name: string, value: T | null): Record<string, T> {
  const entries = Object.entries(record).filter(([key]) => key !== name);
  if (value !== null) entries.push([name, value]);
  return Object.fromEntries(entries);
}

function withOptional<K extends "attributes" | "group">(
  object: StockObject,
  key: K,
  value: StockObject[K],
): StockObject {
  const { [key]: _, ...rest } = object;
  return (value === undefined ? rest : { ...rest, [key]: value }) as StockObject;
}

function setAttribute(object: StockObject, name: string, value: AttributeValue | null): StockObject {
  const attributes = withEntry(object.attributes ?? {}, name, value);
  return withOptional(object, "attributes", Object.keys(attributes).length > 0 ? attributes : undefined);
}

/** The labels after a step. Throws a Failure `step-misfit` where it does not fit them. */
export function applyStep(labels: Labels, step: Step): Labels {
  switch (step.do) {
    case "add-object":
      if (labels.objects.some(({ uid }) => uid === step.object.uid))
        throw misfit("This object is on the image already.");
      return { ...labels, objects: [...labels.objects, step.object].sort(inDrawingOrder) };
    case "remove-object": {
      const gone = objectOf(labels, step.uid);
      return { ...labels, objects: labels.objects.filter((object) => object !== gone) };
    }
    case "set-shape":
      // An area that came with the object was that of the shape before.
      return changed(labels, step.uid, ({ givenArea: _, ...object }) => ({
        ...object,
        shape: step.shape,
        ...(step.givenArea === undefined ? {} : { givenArea: step.givenArea }),
      }));
    case "set-class":
      return changed(labels, step.uid, (object) => ({ ...object, class: step.class }));
    case "set-attribute":
      return changed(labels, step.uid, (object) => setAttribute(object, step.name, step.value));
    case "set-flag":
      return changed(labels, step.uid, (object) => {
        const { [step.flag]: _, ...rest } = object;
        return step.value === null ? rest : { ...rest, [step.flag]: step.value };
      });
    case "order-object": {
      const moved = changed(labels, step.uid, (object) => ({ ...object, order: step.order }));
      return { ...moved, objects: [...moved.objects].sort(inDrawingOrder) };
    }
    case "group-objects":
      return Object.entries(step.groups).reduce(
        (current, [uid, group]) => changed(current, uid, (object) => withOptional(object, "group", group ?? undefined)),
        labels,
      );
    case "add-class":
      if (labels.classes.includes(step.class)) throw misfit("The image is of this class already.");
      return { ...labels, classes: [...labels.classes, step.class].sort((a, b) => a - b) };
    case "remove-class":
      if (!labels.classes.includes(step.class)) throw misfit("The image is not of this class any more.");
      return { ...labels, classes: labels.classes.filter((id) => id !== step.class) };
    case "set-caption":
      return { ...labels, captions: step.captions };
    case "set-field":
      return { ...labels, fields: withEntry(labels.fields, step.name, step.value) };
    case "set-image-attribute":
      return { ...labels, attributes: withEntry(labels.attributes, step.name, step.value) };
    case "set-state":
      return { ...labels, state: step.state };
    case "set-split":
      return { ...labels, split: step.split };
    case "pin":
      return { ...labels, pinned: step.pinned };
    case "add-tag":
      if (labels.tags.includes(step.tag)) throw misfit(`The image is tagged ${step.tag} already.`);
      return { ...labels, tags: [...labels.tags, step.tag].sort() };
    case "remove-tag":
      if (!labels.tags.includes(step.tag)) throw misfit(`The image is not tagged ${step.tag} any more.`);
      return { ...labels, tags: labels.tags.filter((tag) => tag !== step.tag) };
    case "set-presence":
      if (labels.present === step.present)
        throw misfit(step.present ? "The image is in stock already." : "The image is in the bin already.");
      return { ...labels, present: step.present };
    case "add-suggestion":
      if (labels.suggestions.some(({ uid }) => uid === step.suggestion.uid))
        throw misfit("This suggestion is on the image already.");
      return { ...labels, suggestions: [...labels.suggestions, step.suggestion].sort(byUid) };
    case "remove-suggestion": {
      const gone = suggestionOf(labels, step.uid);
      return { ...labels, suggestions: labels.suggestions.filter((suggestion) => suggestion !== gone) };
    }
    case "answer-suggestion": {
      const former = suggestionOf(labels, step.uid);
      const { answer: _, ...open } = former;
      const after = step.answer === null ? open : { ...open, answer: step.answer };
      return { ...labels, suggestions: labels.suggestions.map((one) => (one === former ? after : one)) };
    }
  }
}

/** The step that gives an object the shape it has. */
function shapeStep({ uid, shape, givenArea }: StockObject): Step {
  return { do: "set-shape", uid, shape, ...(givenArea === undefined ? {} : { givenArea }) };
}

const byUid = (a: { uid: string }, b: { uid: string }) => (a.uid < b.uid ? -1 : 1);

/** The step that takes `step` back, worked out on the labels before it. Throws where the step does not fit them. */
export function invertStep(before: Labels, step: Step): Step {
  switch (step.do) {
    case "add-object":
      return { do: "remove-object", uid: step.object.uid };
    case "remove-object":
      return { do: "add-object", object: objectOf(before, step.uid) };
    case "set-shape":
      return shapeStep(objectOf(before, step.uid));
    case "set-class":
      return { ...step, class: objectOf(before, step.uid).class };
    case "set-attribute":
      return { ...step, value: ownEntry(objectOf(before, step.uid).attributes, step.name) };
    case "set-flag":
      return { ...step, value: objectOf(before, step.uid)[step.flag] ?? null };
    case "order-object":
      return { ...step, order: objectOf(before, step.uid).order };
    case "group-objects":
      return {
        ...step,
        groups: Object.fromEntries(
          Object.keys(step.groups).map((uid) => [uid, objectOf(before, uid).group ?? null] as const),
        ),
      };
    case "add-class":
      return { do: "remove-class", class: step.class };
    case "remove-class":
      return { do: "add-class", class: step.class };
    case "set-caption":
      return { ...step, captions: [...before.captions] };
    case "set-field":
      return { ...step, value: ownEntry(before.fields, step.name) };
    case "set-image-attribute":
      return { ...step, value: ownEntry(before.attributes, step.name) };
    case "set-state":
      return { ...step, state: before.state };
    case "set-split":
      return { ...step, split: before.split };
    case "pin":
      return { ...step, pinned: before.pinned };
    case "add-tag":
      return { do: "remove-tag", tag: step.tag };
    case "remove-tag":
      return { do: "add-tag", tag: step.tag };
    case "set-presence":
      return { ...step, present: before.present };
    case "add-suggestion":
      return { do: "remove-suggestion", uid: step.suggestion.uid };
    case "remove-suggestion":
      return { do: "add-suggestion", suggestion: suggestionOf(before, step.uid) };
    case "answer-suggestion":
      return { ...step, answer: suggestionOf(before, step.uid).answer ?? null };
  }
}

/** Labels after a list of steps, and the list that takes all of them back. */
export function applySteps(labels: Labels, steps: readonly Step[]): { after: Labels; inverse: Step[] } {
  const inverse: Step[] = [];
  let after = labels;
  for (const step of steps) {
    inverse.unshift(invertStep(after, step));
    after = applyStep(after, step);
  }
  return { after, inverse };
}

/**
 * The step that brings the state in line with what is said: an image that says something is labeled, one that lost all
 * its labels was looked at and holds nothing. Null where it is in line.
 */
export function stateStep(labels: Labels): Step | null {
  if (saysSomething(labels)) return labels.state === "labeled" ? null : { do: "set-state", state: "labeled" };
  return labels.state === "labeled" ? { do: "set-state", state: "empty" } : null;
}
