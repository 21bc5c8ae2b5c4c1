/** Steps at rest: as JSON, with the runs of masks as bytes. */
import { z } from "zod";
import type { StockObject, Suggestion } from "./labels";
import { packShape, unpackShape, type StoredShape } from "./stored-shape";
import { stepSchema, type Step } from "./step";

type Packed<T> = T extends { shape?: unknown } ? Omit<T, "shape"> & { shape: StoredShape } : T;
export type StoredStep =
  | Exclude<Step, { do: "add-object" | "set-shape" | "add-suggestion" }>
  | { do: "add-object"; object: Packed<StockObject> }
  | { do: "set-shape"; uid: string; shape: StoredShape; givenArea?: number | undefined }
  | { do: "add-suggestion"; suggestion: Omit<Suggestion, "shape"> & { shape?: StoredShape } };

export function packStep(step: Step): StoredStep {
  if (step.do === "set-shape") return { ...step, shape: packShape(step.shape) };
  if (step.do === "add-object") return { ...step, object: { ...step.object, shape: packShape(step.object.shape) } };
  if (step.do !== "add-suggestion") return step;
  const { shape, ...rest } = step.suggestion;
  return { ...step, suggestion: { ...rest, ...(shape ? { shape: packShape(shape) } : {}) } };
}

export function unpackStep(stored: StoredStep): Step {
  if (stored.do === "set-shape") return { ...stored, shape: unpackShape(stored.shape) };
  if (stored.do === "add-object")
    return { ...stored, object: { ...stored.object, shape: unpackShape(stored.object.shape) } };
  if (stored.do !== "add-suggestion") return stored;
  const { shape, ...rest } = stored.suggestion;
  return { ...stored, suggestion: { ...rest, ...(shape ? { shape: unpackShape(shape) } : {}) } };
}

/** Reads steps as they stand in the database. */
export const storedStepsSchema = z
  .array(z.custom<StoredStep>((value) => typeof value === "object" && value !== null && "do" in value))
  .transform((stored) => stored.map((step) => stepSchema.parse(unpackStep(step))));
