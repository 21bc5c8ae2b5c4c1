/** The attributes a class may carry, as a schema: what can be said, what must be, and what holds where nobody says it. */
import { z } from "zod";
import { ownEntry } from "./own-entry";

const named = {
  name: z.string().trim().min(1).max(200),
  required: z.boolean().default(false),
  help: z.string().default(""),
};
const values = z.array(z.string().trim().min(1).max(200)).min(1).max(1000);

export const attributeSchemaSchema = z.discriminatedUnion("kind", [
  z.object({ ...named, kind: z.literal("choice"), values, default: z.string().optional() }),
  z.object({ ...named, kind: z.literal("several"), values, default: z.array(z.string()).optional() }),
  z.object({
    ...named,
    kind: z.literal("number"),
    least: z.number().optional(),
    most: z.number().optional(),
    default: z.number().optional(),
  }),
  z.object({ ...named, kind: z.literal("text"), default: z.string().optional() }),
  z.object({ ...named, kind: z.literal("yes-no"), default: z.boolean().optional() }),
]);
export type AttributeSchema = z.infer<typeof attributeSchemaSchema>;

/** Why `value` does not fit the attribute; null where it does. */
export function attributeMisfit(attribute: AttributeSchema, value: unknown): string | null {
  switch (attribute.kind) {
    case "choice":
      return typeof value === "string" && attribute.values.includes(value)
        ? null
        : `${attribute.name} is one of ${attribute.values.join(", ")}.`;
    case "several":
      return Array.isArray(value) && value.every((entry) => attribute.values.includes(entry as string))
        ? null
        : `${attribute.name} holds some of ${attribute.values.join(", ")}.`;
    case "number": {
      if (typeof value !== "number" || !Number.isFinite(value)) return `${attribute.name} is a number.`;
      if (attribute.least !== undefined && value < attribute.least)
        return `${attribute.name} is at least ${attribute.least}.`;
      if (attribute.most !== undefined && value > attribute.most)
        return `${attribute.name} is at most ${attribute.most}.`;
      return null;
    }
    case "text":
      return typeof value === "string" ? null : `${attribute.name} is a text.`;
    case "yes-no":
      return typeof value === "boolean" ? null : `${attribute.name} is yes or no.`;
  }
}

/** Names of the attributes that have to be said of an object, are not, and have no value that holds where nobody says one. */
export function missingAttributes(
  schemas: readonly AttributeSchema[],
  attributes: Readonly<Record<string, unknown>> | undefined,
): string[] {
  return schemas
    .filter((schema) => schema.required && schema.default === undefined && ownEntry(attributes, schema.name) === null)
    .map(({ name }) => name);
}
