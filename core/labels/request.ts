/** What can be done to many images at once, and the steps it comes to on each. */
import { z } from "zod";
import { applySteps, stateStep } from "./apply";
import { attributeValueSchema, type AttributeValue } from "../model/item";
import { ownEntry } from "../model/own-entry";
import { labelSchemas, type Labels, type StockObject } from "./labels";
import { objectConditionsSchema } from "./object-conditions";
import type { Step } from "./step";

const tag = z.string().trim().min(1, "A tag needs a name.").max(100, "A tag has 100 characters at most.");
const classId = z.number().int();
const attributeName = z.string().trim().min(1).max(200);
/** As many objects as are named by hand; beyond, conditions say which. */
const mostPickedObjects = 10_000;
/** Of which objects a request speaks: those that meet conditions, or some that were picked, by uid. */
const objectsSchema = z.union([objectConditionsSchema, z.array(z.uuid()).min(1).max(mostPickedObjects)]);

export const requestSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("move"), split: labelSchemas.split }),
  z.object({ do: z.literal("pin"), pinned: z.boolean() }),
  z.object({ do: z.literal("tag"), tag }),
  z.object({ do: z.literal("untag"), tag }),
  z.object({ do: z.literal("mark-empty") }),
  z.object({ do: z.literal("mark-unlabeled") }),
  z.object({ do: z.literal("add-class"), class: classId }),
  z.object({ do: z.literal("remove-class"), class: classId }),
  /** Gives images that have one class another one in its place; whatever else they are, they stay. */
  z.object({ do: z.literal("replace-class"), from: classId, into: classId }),
  z.object({ do: z.literal("set-classes"), classes: z.array(classId).max(100) }),
  z.object({ do: z.literal("reclass"), objects: objectsSchema, class: classId }),
  z.object({ do: z.literal("remove-objects"), objects: objectsSchema }),
  z.object({
    do: z.literal("set-object-attribute"),
    objects: objectsSchema,
    name: attributeName,
    value: attributeValueSchema.nullable(),
  }),
  z.object({
    do: z.literal("set-attribute"),
    name: attributeName,
    value: attributeValueSchema.nullable(),
  }),
  z.object({ do: z.literal("rename-attribute"), from: attributeName, to: attributeName }),
  z.object({ do: z.literal("merge"), from: classId, into: classId }),
  /** Takes a class with all its labels away. */
  z.object({ do: z.literal("drop-class"), class: classId }),
  z.object({ do: z.literal("remove") }),
  z.object({ do: z.literal("restore") }),
]);
export type LabelRequest = z.infer<typeof requestSchema>;

/** Whether the steps of a request depend on the objects of an image. */
export function looksAtObjects(request: LabelRequest): boolean {
  return !["move", "pin", "tag", "untag", "set-attribute", "rename-attribute", "remove", "restore"].includes(
    request.do,
  );
}

/** Everything that is said about what is on the picture is taken away. */
const clearing = (labels: Labels): Step[] => [
  ...labels.objects.map(({ uid }): Step => ({ do: "remove-object", uid })),
  ...labels.classes.map((id): Step => ({ do: "remove-class", class: id })),
  ...(labels.captions.length > 0 ? [{ do: "set-caption" as const, captions: [] }] : []),
  ...Object.keys(labels.fields).map((name): Step => ({ do: "set-field", name, value: null })),
];

const toState = (labels: Labels, state: Labels["state"]): Step[] =>
  labels.state === state ? [] : [{ do: "set-state", state }];

/** The steps that put an image-level class in the place of another one; none where an image does not have that. */
function replacement(labels: Labels, from: number, into: number): Step[] {
  if (!labels.classes.includes(from) || from === into) return [];
  return [
    { do: "remove-class", class: from },
    ...(labels.classes.includes(into) ? [] : [{ do: "add-class" as const, class: into }]),
  ];
}

function ownSteps(request: LabelRequest, labels: Labels, meant: (object: StockObject) => boolean): Step[] {
  switch (request.do) {
    case "move":
      return labels.split === request.split ? [] : [{ do: "set-split", split: request.split }];
    case "pin":
      return labels.pinned === request.pinned ? [] : [{ do: "pin", pinned: request.pinned }];
    case "tag":
      return labels.tags.includes(request.tag) ? [] : [{ do: "add-tag", tag: request.tag }];
    case "untag":
      return labels.tags.includes(request.tag) ? [{ do: "remove-tag", tag: request.tag }] : [];
    case "mark-empty":
      return [...clearing(labels), ...toState(labels, "empty")];
    case "mark-unlabeled":
      return [...clearing(labels), ...toState(labels, "unlabeled")];
    case "set-classes":
      return [
        ...labels.classes
          .filter((id) => !request.classes.includes(id))
          .map((id): Step => ({ do: "remove-class", class: id })),
        ...[...new Set(request.classes)]
          .filter((id) => !labels.classes.includes(id))
          .map((id): Step => ({ do: "add-class", class: id })),
      ];
    case "reclass":
      return labels.objects
        .filter((object) => object.class !== request.class && meant(object))
        .map(({ uid }): Step => ({ do: "set-class", uid, class: request.class }));
    case "remove-objects":
      return labels.objects.filter(meant).map(({ uid }): Step => ({ do: "remove-object", uid }));
    case "set-object-attribute":
      return labels.objects
        .filter((object) => meant(object) && !isSame(ownEntry(object.attributes, request.name) ?? null, request.value))
        .map(({ uid }): Step => ({ do: "set-attribute", uid, name: request.name, value: request.value }));
    case "set-attribute":
      return isSame(ownEntry(labels.attributes, request.name) ?? null, request.value)
        ? []
        : [{ do: "set-image-attribute", name: request.name, value: request.value }];
    case "rename-attribute": {
      const value = ownEntry(labels.attributes, request.from) ?? null;
      return value === null
        ? []
        : [
            { do: "set-image-attribute", name: request.from, value: null },
            { do: "set-image-attribute", name: request.to, value },
          ];
    }
    case "replace-class":
      return replacement(labels, request.from, request.into);
    case "add-class":
      return labels.classes.includes(request.class) ? [] : [{ do: "add-class", class: request.class }];
    case "remove-class":
      return labels.classes.includes(request.class) ? [{ do: "remove-class", class: request.class }] : [];
    case "merge":
      return [
        ...labels.objects
          .filter((object) => object.class === request.from)
          .map(({ uid }): Step => ({ do: "set-class", uid, class: request.into })),
        ...replacement(labels, request.from, request.into),
      ];
    case "drop-class":
      return [
        ...labels.objects
          .filter((object) => object.class === request.class)
          .map(({ uid }): Step => ({ do: "remove-object", uid })),
        ...(labels.classes.includes(request.class) ? [{ do: "remove-class" as const, class: request.class }] : []),
      ];
    case "remove":
      return labels.present ? [{ do: "set-presence", present: false }] : [];
    case "restore":
      return labels.present ? [] : [{ do: "set-presence", present: true }];
  }
}

const isSame = (a: AttributeValue | null, b: AttributeValue | null) => JSON.stringify(a) === JSON.stringify(b);

/**
 * The steps that a request comes to on one image, its state brought in line; none where it changes nothing. `meant` says
 * of which objects it speaks, where it speaks of objects.
 */
export function requestSteps(
  request: LabelRequest,
  labels: Labels,
  meant: (object: StockObject) => boolean = () => true,
): Step[] {
  const steps = ownSteps(request, labels, meant);
  const settled = steps.length > 0 && looksAtObjects(request) ? stateStep(applySteps(labels, steps).after) : null;
  return settled ? [...steps, settled] : steps;
}

const attributeText = (value: AttributeValue) =>
  typeof value === "boolean" ? (value ? "yes" : "no") : Array.isArray(value) ? value.join(", ") : `"${value}"`;

const objectsText = (objects: string | readonly string[]) =>
  typeof objects === "string"
    ? objects
    : `${objects.length.toLocaleString("en-US")} ${objects.length === 1 ? "object" : "objects"}`;

/** "1 image", "1,204 images". */
export const imagesText = (n: number) => `${n.toLocaleString("en-US")} ${n === 1 ? "image" : "images"}`;

/** What a request did to so many images, in words; `className` names classes by their ids. */
export function requestText(request: LabelRequest, images: number, className: (id: number) => string): string {
  const many = imagesText(images);
  switch (request.do) {
    case "move":
      return request.split === null ? `took ${many} out of their splits` : `moved ${many} to ${request.split}`;
    case "pin":
      return request.pinned ? `pinned ${many} to their splits` : `unpinned ${many}`;
    case "tag":
      return `tagged ${many} "${request.tag}"`;
    case "untag":
      return `took the tag "${request.tag}" off ${many}`;
    case "mark-empty":
      return `marked ${many} as empty`;
    case "add-class":
      return `said of ${many} that they are ${className(request.class)}`;
    case "remove-class":
      return `said of ${many} that they are not ${className(request.class)}`;
    case "replace-class":
      return `said of ${many} that they are ${className(request.into)}, not ${className(request.from)}`;
    case "mark-unlabeled":
      return `marked ${many} as unlabeled`;
    case "set-classes": {
      const names = request.classes.map(className);
      return names.length === 0
        ? `took every class off ${many}`
        : `said of ${many} that they are ${names.join(" and ")}`;
    }
    case "reclass":
      return `made ${objectsText(request.objects)} into ${className(request.class)} (on ${many})`;
    case "remove-objects":
      return `removed ${objectsText(request.objects)} from ${many}`;
    case "set-object-attribute":
      return request.value === null
        ? `took ${request.name} off ${objectsText(request.objects)} (on ${many})`
        : `set ${request.name} of ${objectsText(request.objects)} to ${attributeText(request.value)} (on ${many})`;
    case "set-attribute":
      return request.value === null
        ? `took ${request.name} off ${many}`
        : `set ${request.name} of ${many} to ${attributeText(request.value)}`;
    case "rename-attribute":
      return `renamed the attribute ${request.from} to ${request.to} (${many})`;
    case "merge":
      return `merged ${className(request.from)} into ${className(request.into)} (${many})`;
    case "drop-class":
      return `removed the class ${className(request.class)} with its labels (${many})`;
    case "remove":
      return `put ${many} into the bin`;
    case "restore":
      return `took ${many} out of the bin`;
  }
}
