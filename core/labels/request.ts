/** What can be done to many images at once, and the steps it comes to on each. */
import { z } from "zod";
import { applySteps, stateStep } from "./apply";
import { labelSchemas, type Labels } from "./labels";
import type { Step } from "./step";

const tag = z.string().trim().min(1, "A tag needs a name.").max(100, "A tag has 100 characters at most.");
const classId = z.number().int();

export const requestSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("move"), split: labelSchemas.split }),
  z.object({ do: z.literal("pin"), pinned: z.boolean() }),
  z.object({ do: z.literal("tag"), tag }),
  z.object({ do: z.literal("untag"), tag }),
  z.object({ do: z.literal("mark-empty") }),
  z.object({ do: z.literal("add-class"), class: classId }),
  z.object({ do: z.literal("remove-class"), class: classId }),
  z.object({ do: z.literal("merge"), from: classId, into: classId }),
  z.object({ do: z.literal("remove") }),
  z.object({ do: z.literal("restore") }),
]);
export type LabelRequest = z.infer<typeof requestSchema>;

/** Whether the steps of a request depend on the objects of an image. */
export function looksAtObjects(request: LabelRequest): boolean {
  return !["move", "pin", "tag", "untag", "remove", "restore"].includes(request.do);
}

function ownSteps(request: LabelRequest, labels: Labels): Step[] {
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
      return [
        ...labels.objects.map(({ uid }): Step => ({ do: "remove-object", uid })),
        ...labels.classes.map((id): Step => ({ do: "remove-class", class: id })),
        ...(labels.captions.length > 0 ? [{ do: "set-caption" as const, captions: [] }] : []),
        ...Object.keys(labels.fields).map((name): Step => ({ do: "set-field", name, value: null })),
        ...(labels.state === "empty" ? [] : [{ do: "set-state" as const, state: "empty" as const }]),
      ];
    case "add-class":
      return labels.classes.includes(request.class) ? [] : [{ do: "add-class", class: request.class }];
    case "remove-class":
      return labels.classes.includes(request.class) ? [{ do: "remove-class", class: request.class }] : [];
    case "merge":
      return [
        ...labels.objects
          .filter((object) => object.class === request.from)
          .map(({ uid }): Step => ({ do: "set-class", uid, class: request.into })),
        ...(labels.classes.includes(request.from) ? [{ do: "remove-class" as const, class: request.from }] : []),
        ...(labels.classes.includes(request.from) && !labels.classes.includes(request.into)
          ? [{ do: "add-class" as const, class: request.into }]
          : []),
      ];
    case "remove":
      return labels.present ? [{ do: "set-presence", present: false }] : [];
    case "restore":
      return labels.present ? [] : [{ do: "set-presence", present: true }];
  }
}

/** The steps that a request comes to on one image, its state brought in line; none where it changes nothing. */
export function requestSteps(request: LabelRequest, labels: Labels): Step[] {
  const steps = ownSteps(request, labels);
  const settled = looksAtObjects(request) ? stateStep(applySteps(labels, steps).after) : null;
  return settled ? [...steps, settled] : steps;
}

const imagesText = (n: number) => `${n.toLocaleString("en-US")} ${n === 1 ? "image" : "images"}`;

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
    case "merge":
      return `merged ${className(request.from)} into ${className(request.into)} (${many})`;
    case "remove":
      return `put ${many} into the bin`;
    case "restore":
      return `took ${many} out of the bin`;
  }
}
