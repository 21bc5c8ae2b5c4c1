/** A selection of the stock packed as it is, without a plan and without a version. */
import { packageFormats } from "@larder/core/formats/registry";
import { Failure } from "@larder/core/model/failure";
import { planSchema } from "@larder/core/plans/plan";
import { selectionSchema } from "@larder/core/selection/chosen";
import { z } from "zod";
import { transaction } from "../db/database";
import { versions } from "../db/schema";
import { changed } from "../jobs/events";
import { addJob } from "../jobs/queue";
import { ask } from "../snapshot/ask";
import { allow } from "./access";
import type { Actor } from "./actor";

export const exportSchema = z.object({
  ...selectionSchema.shape,
  format: z.string(),
  name: z.string().trim().max(80).optional(),
});

/** Starts packing; the package is listed among the selections that were packed. */
export async function exportSelection(
  actor: Actor,
  collection: number,
  input: z.input<typeof exportSchema>,
): Promise<{ id: number; job: string }> {
  await allow(actor, "build", { collection });
  const { format, name: given, ...selection } = exportSchema.parse(input);
  if (!packageFormats.includes(format))
    throw new Failure(
      "format-unknown",
      `A package cannot be written as "${format}". It can be: ${packageFormats.join(", ")}.`,
    );
  const images = await ask("count", collection, selection);
  if (images === 0) throw new Failure("nothing-to-build", "No image is meant by this selection.", 422);
  const name = given || `${images.toLocaleString("en-US")} ${images === 1 ? "image" : "images"}`;
  return transaction(async (tx) => {
    await changed(tx, collection, "versions");
    const plan = planSchema.parse({ split: { mode: "keep" }, pack: { formats: [format] } });
    const [row] = await tx
      .insert(versions)
      .values({ collectionId: collection, name, plan, selection, createdBy: actor.id })
      .returning({ id: versions.id });
    const id = row?.id as number;
    const title = `Packing ${name}`;
    return {
      id,
      job: await addJob(actor, { kind: "build-version", subject: id, collectionId: collection, title }, tx),
    };
  });
}
