/** Brings older plan documents up to the present number, one number a function; none loses what it means. */
import { z } from "zod";
import { labelStates } from "../model/item";
import { planSchema, type Plan } from "./plan";

/** The document before it was numbered. */
const firstSchema = z.object({
  select: z
    .object({
      states: z.array(z.enum(labelStates)).optional(),
      deliveries: z.array(z.number().int()).nullable().optional(),
    })
    .optional(),
  relabel: z.record(z.string(), z.unknown()).optional(),
  split: z.record(z.string(), z.unknown()).optional(),
  prepare: z.object({ resize: z.record(z.string(), z.unknown()).nullable().optional() }).optional(),
  augment: z
    .object({
      copies: z.number().optional(),
      flipSideways: z.number().optional(),
      unchanged: z.enum(["keep", "leave-out"]).optional(),
    })
    .optional(),
  pack: z.record(z.string(), z.unknown()).optional(),
});

/** What deliveries are called, by their ids. */
export type DeliveryNames = ReadonlyMap<number, string>;

const isFirst = (value: unknown): boolean =>
  typeof value === "object" && value !== null && !("plan" in value && value.plan === 2);

/** Whether a document has marks of the first kind that the second does not know. */
function looksFirst(value: object): boolean {
  const { select, split, augment, plan } = value as Record<string, Record<string, unknown> | undefined>;
  return (
    plan === undefined &&
    ((select !== undefined && select !== null && "deliveries" in select) ||
      (split !== undefined && split !== null && "seed" in split) ||
      (augment !== undefined && augment !== null && "flipSideways" in augment))
  );
}

/** From the document without a number to number 2. Pictures were enlarged to their frame, and are still. */
function fromFirst(value: unknown, names: DeliveryNames): unknown {
  const { select, relabel, split = {}, prepare, augment = {}, pack } = firstSchema.parse(value);
  const { seed, ...dealing } = split;
  const { flipSideways = 0, ...copying } = augment;
  const chosen = select?.deliveries?.map((id) => `delivery = ${JSON.stringify(names.get(id) ?? `delivery ${id}`)}`);
  const where = chosen === undefined ? "" : chosen.length > 0 ? chosen.join(" or ") : "objects < 0";
  const resize = prepare?.resize ? { ...prepare.resize, larger: true } : null;
  return {
    plan: 2,
    ...(seed === undefined ? {} : { seed }),
    select: { where, ...(select?.states ? { states: select.states } : {}) },
    ...(relabel ? { relabel } : {}),
    split: dealing,
    prepare: { resize },
    augment: {
      ...copying,
      do: flipSideways > 0 ? [{ op: "flip-sideways", chance: flipSideways }] : [],
    },
    ...(pack ? { pack } : {}),
  };
}

/** A stored plan of any number, as it stands today. Throws a ZodError where it is none. */
export function upgradePlan(value: unknown, names: DeliveryNames = new Map()): Plan {
  return planSchema.parse(isFirst(value) ? fromFirst(value, names) : value);
}

/** A document that somebody wrote: of number 2, or plainly of the first kind and then brought up. */
export function writtenPlan(value: unknown): unknown {
  return typeof value === "object" && value !== null && looksFirst(value) ? fromFirst(value, new Map()) : value;
}
