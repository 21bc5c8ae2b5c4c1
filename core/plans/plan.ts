/** The plan: the editable description of a data set. Its text form is YAML; screen and text are two views of this. */
import { parse, stringify } from "yaml";
import { z } from "zod";
import { Failure } from "../model/failure";
import { labelStates } from "../model/item";

const share = z.number().min(0).max(100);

export const ratioSchema = z
  .object({ train: share, val: share, test: share })
  .refine((ratio) => ratio.train + ratio.val + ratio.test > 0, "At least one split needs a share above 0.");

export const resizeSchema = z.object({
  mode: z.enum(["fit", "stretch"]),
  width: z.number().int().min(16).max(8192),
  height: z.number().int().min(16).max(8192),
});
export type Resize = z.infer<typeof resizeSchema>;

export const planSchema = z.object({
  select: z
    .object({
      states: z.array(z.enum(labelStates)).default(["labeled", "empty"]),
      deliveries: z.array(z.number().int()).nullable().default(null),
    })
    .prefault({}),
  relabel: z
    .object({
      leaveOut: z.array(z.string()).default([]),
      rename: z.record(z.string(), z.string().trim().min(1).max(120)).default({}),
      emptied: z.enum(["keep", "leave-out"]).default("keep"),
    })
    .prefault({}),
  split: z
    .object({
      mode: z.enum(["ratio", "keep"]).default("ratio"),
      /** Which splits that images have already stay: only the others are dealt. */
      stand: z.enum(["pinned", "all", "none"]).default("pinned"),
      ratio: ratioSchema.default({ train: 70, val: 20, test: 10 }),
      seed: z
        .number()
        .int()
        .min(0)
        .max(2 ** 31 - 1)
        .default(1),
    })
    .prefault({}),
  prepare: z.object({ resize: resizeSchema.nullable().default(null) }).prefault({}),
  augment: z
    .object({
      copies: z.number().int().min(0).max(20).default(0),
      flipSideways: z.number().min(0).max(1).default(0),
      /** Whether copies go out that no op changed. */
      unchanged: z.enum(["keep", "leave-out"]).default("keep"),
    })
    .prefault({}),
  pack: z.object({ formats: z.array(z.string()).default(["yolo"]) }).prefault({}),
});
export type Plan = z.infer<typeof planSchema>;

/**
 * A plan as it starts on the screen: everything labeled or empty as it is, splits that came are kept, the rest is dealt 80
 * / 10 / 10, and a copy that nothing changed does not go out.
 */
export function newPlan(format: string): Plan {
  return planSchema.parse({
    split: { stand: "all", ratio: { train: 80, val: 10, test: 10 } },
    augment: { unchanged: "leave-out" },
    pack: { formats: [format] },
  });
}

export function planToYaml(plan: Plan): string {
  return stringify(plan, { lineWidth: 0 });
}

/** Parses a plan's text. Throws a Failure that names the line's key where something does not fit. */
export function planFromYaml(text: string): Plan {
  let value: unknown;
  try {
    value = parse(text);
  } catch (error) {
    throw new Failure("plan-unreadable", `The text is not YAML: ${(error as Error).message.split("\n")[0]}`);
  }
  const parsed = planSchema.safeParse(value ?? {});
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw new Failure(
    "plan-invalid",
    `The plan does not fit at "${issue?.path.join(".") ?? ""}": ${issue?.message ?? "not valid"}.`,
  );
}
