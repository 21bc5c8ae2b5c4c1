/** What the ledger of a collection has columns for: attributes of images, declared or met. */
import type { LedgerColumn } from "@larder/core/ledger/column";
import { attributeKey } from "@larder/core/ledger/column";
import { attributeSchemaSchema, type AttributeSchema } from "@larder/core/model/attribute-schema";
import { Failure } from "@larder/core/model/failure";
import { eq } from "drizzle-orm";
import { z } from "zod";
import { db, transaction } from "../../db/database";
import { collections } from "../../db/schema";
import { changed } from "../../jobs/events";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import { act, type ActOutcome } from "../acts";
import type { Actor } from "../actor";
import { standingClasses } from "../classes";
import { declaredIn } from "./declared-columns";

/** The columns of a ledger: split, classes, tags, caption, then attributes as declared, then others by their names. */
export async function ledgerColumns(actor: Actor, collection: number): Promise<LedgerColumn[]> {
  await allow(actor, "see", { collection });
  const [declared, classes, vocabulary] = await Promise.all([
    declaredIn(db(), collection),
    standingClasses(collection),
    ask("vocabulary", collection, undefined),
  ]);
  const met = new Map(vocabulary.image.map(({ name, values }) => [name, values.map(({ value }) => value)]));
  const attribute = (name: string, schema: AttributeSchema | null): LedgerColumn => ({
    key: attributeKey(name),
    kind: "attribute",
    name,
    schema,
    known: met.get(name) ?? [],
  });
  const names = new Set(declared.map(({ name }) => name));
  return [
    { key: "split", kind: "split" },
    { key: "classes", kind: "classes", names: classes.map(({ name }) => name) },
    { key: "tags", kind: "tags", names: (vocabulary.fields["tag"] ?? []).map(({ value }) => value) },
    { key: "caption", kind: "caption" },
    ...declared.map((schema) => attribute(schema.name, schema)),
    ...[...met]
      .filter(([name, values]) => !names.has(name) && values.length > 0)
      .map(([name]) => attribute(name, null)),
  ];
}

export const columnChangeSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("add"), attribute: attributeSchemaSchema }),
  /** What may be said from now on; what images say already stays. */
  z.object({ do: z.literal("set"), attribute: attributeSchemaSchema }),
  z.object({ do: z.literal("rename"), from: z.string().min(1).max(200), to: z.string().trim().min(1).max(200) }),
  z.object({ do: z.literal("drop"), name: z.string().min(1).max(200) }),
]);

const mostColumns = 200;

/** Makes a column, changes what it may hold, renames it with everything said in it, or takes its declaration away. */
export async function changeColumns(
  actor: Actor,
  collection: number,
  input: z.input<typeof columnChangeSchema>,
): Promise<ActOutcome | null> {
  await allow(actor, "label", { collection });
  const change = columnChangeSchema.parse(input);
  const taken = new Set((await ledgerColumns(actor, collection)).flatMap((one) => ("name" in one ? [one.name] : [])));
  const refuseTaken = (name: string) => {
    if (taken.has(name))
      throw new Failure("column-taken", `There is a column "${name}" already. Give this one another name.`, 409);
  };
  if (change.do === "rename") {
    if (!taken.has(change.from))
      throw new Failure("column-missing", `There is no column "${change.from}" here any more.`, 404);
    refuseTaken(change.to);
    return act(actor, collection, { act: { do: "rename-attribute", from: change.from, to: change.to } });
  }
  if (change.do === "add") refuseTaken(change.attribute.name);
  await transaction(async (tx) => {
    await changed(tx, collection, "stock");
    const declared = await declaredIn(tx, collection);
    const name = change.do === "drop" ? change.name : change.attribute.name;
    const others = declared.filter((one) => one.name !== name);
    const imageAttributes =
      change.do === "drop"
        ? others
        : others.length === declared.length
          ? [...declared, change.attribute]
          : declared.map((one) => (one.name === name ? change.attribute : one));
    if (imageAttributes.length > mostColumns)
      throw new Failure("columns-many", `A ledger has ${mostColumns} columns of its own at most.`, 422);
    await tx.update(collections).set({ imageAttributes }).where(eq(collections.id, collection));
  });
  return null;
}
