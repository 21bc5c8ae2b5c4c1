/** The steps by which labels change: plain data, small, each invertible. */
import { z } from "zod";
import { attributeValueSchema, objectFlags } from "../model/item";
import { shapeSchema } from "../model/shape";
import { labelSchemas, stockObjectSchema, suggestionAnswers, suggestionSchema } from "./labels";

const uid = z.uuid();
const name = z.string().min(1).max(200);
const value = attributeValueSchema.nullable();
const tag = z.string().trim().min(1).max(100);

export const stepSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("add-object"), object: stockObjectSchema }),
  z.object({ do: z.literal("remove-object"), uid }),
  z.object({ do: z.literal("set-shape"), uid, shape: shapeSchema, givenArea: z.number().optional() }),
  z.object({ do: z.literal("set-class"), uid, class: z.number().int() }),
  z.object({ do: z.literal("set-attribute"), uid, name, value }),
  z.object({
    do: z.literal("set-flag"),
    uid,
    flag: z.enum(objectFlags),
    value: z.union([z.boolean(), z.number()]).nullable(),
  }),
  z.object({ do: z.literal("order-object"), uid, order: z.number() }),
  z.object({ do: z.literal("group-objects"), groups: z.record(uid, uid.nullable()) }),
  z.object({ do: z.literal("add-class"), class: z.number().int() }),
  z.object({ do: z.literal("remove-class"), class: z.number().int() }),
  z.object({ do: z.literal("set-caption"), captions: z.array(z.string()) }),
  z.object({ do: z.literal("set-field"), name, value: z.union([z.string(), z.array(z.string())]).nullable() }),
  z.object({ do: z.literal("set-image-attribute"), name, value }),
  z.object({ do: z.literal("set-state"), state: labelSchemas.state }),
  z.object({ do: z.literal("set-split"), split: labelSchemas.split }),
  z.object({ do: z.literal("pin"), pinned: z.boolean() }),
  z.object({ do: z.literal("add-tag"), tag }),
  z.object({ do: z.literal("remove-tag"), tag }),
  z.object({ do: z.literal("set-presence"), present: z.boolean() }),
  z.object({ do: z.literal("add-suggestion"), suggestion: suggestionSchema }),
  z.object({ do: z.literal("remove-suggestion"), uid }),
  z.object({ do: z.literal("answer-suggestion"), uid, answer: z.enum(suggestionAnswers).nullable() }),
]);
export type Step = z.infer<typeof stepSchema>;

/**
 * What a step touches, as a text: two steps that touch nothing in common commute. An object is touched as a whole where
 * it comes or goes, else in the one thing that is set.
 */
export function placesOf(step: Step): string[] {
  switch (step.do) {
    case "add-object":
      return [`object ${step.object.uid}`];
    case "remove-object":
      return [`object ${step.uid}`];
    case "set-shape":
    case "set-class":
    case "order-object":
      return [`object ${step.uid} ${step.do}`];
    case "set-attribute":
      return [`object ${step.uid} attribute ${step.name}`];
    case "set-flag":
      return [`object ${step.uid} flag ${step.flag}`];
    case "group-objects":
      return Object.keys(step.groups).map((member) => `object ${member} group`);
    case "add-class":
    case "remove-class":
      return [`class ${step.class}`];
    case "set-field":
      return [`field ${step.name}`];
    case "set-image-attribute":
      return [`attribute ${step.name}`];
    case "add-tag":
    case "remove-tag":
      return [`tag ${step.tag}`];
    case "add-suggestion":
      return [`suggestion ${step.suggestion.uid}`];
    case "remove-suggestion":
    case "answer-suggestion":
      return [`suggestion ${step.uid}`];
    case "set-caption":
    case "set-state":
    case "set-split":
    case "pin":
    case "set-presence":
      return [step.do];
  }
}

/** True where the two lists touch something in common: they cannot be applied in either order with the same outcome. */
export function collide(some: readonly Step[], others: readonly Step[]): boolean {
  const touched = others.flatMap(placesOf);
  const meets = (a: string, b: string) => a === b || a.startsWith(`${b} `) || b.startsWith(`${a} `);
  return some.flatMap(placesOf).some((place) => touched.some((other) => meets(place, other)));
}
