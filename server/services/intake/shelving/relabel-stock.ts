/** Labels that a delivery brings for images that are in stock already. */
import type { IntakeChoices } from "@larder/core/intake/choices";
import { addSteps, replaceSteps, type Incoming } from "@larder/core/labels/difference";
import { unpackShapeOf } from "@larder/core/labels/stored-shape";
import { labelStates } from "@larder/core/model/item";
import { sql } from "drizzle-orm";
import { v7 as uuidV7 } from "uuid";
import { z } from "zod";
import type { Transaction } from "../../../db/database";
import { rowsOf } from "../../../db/query";
import type { StagedObject } from "../../../db/schema";
import { changeLabels, type LabelAct } from "../../labels/change-labels";

const relabelingPage = 500;
const incomingSchema = z.object({
  image: z.coerce.number(),
  ordinal: z.number(),
  state: z.enum(labelStates),
  captions: z.array(z.string()),
  fields: z.record(z.string(), z.union([z.string(), z.array(z.string())])),
  classes: z.array(z.coerce.number()),
  objects: z.array(
    z.object({ class: z.coerce.number(), value: z.custom<StagedObject>((value) => typeof value === "object") }),
  ),
});

/** The labels of a delivery for an image that is in stock, under the collection's classes. */
function incomingLabels({ state, captions, fields, classes, objects }: z.infer<typeof incomingSchema>): Incoming {
  return {
    state,
    captions,
    fields,
    classes: [...classes].sort((a, b) => a - b),
    objects: objects.map(({ class: id, value }, order) => {
      const { box: _, area: __, ...object } = value;
      return { ...unpackShapeOf(object), uid: uuidV7(), class: id, order };
    }),
  };
}

/** Gives pictures in stock this delivery's labels, as chosen. Returns how many say something else than before. */
export async function relabelStock(tx: Transaction, act: LabelAct, mode: IntakeChoices["sameBytes"]): Promise<number> {
  if (mode === "skip") return 0;
  const fits = mode === "fill" ? sql`and i.state_there = 'unlabeled'` : mode === "add" ? sql`and l.says` : sql``;
  let relabeled = 0;
  for (let last = -1; ;) {
    const page = await rowsOf(
      tx,
      incomingSchema,
      sql`select i.image_id as image, i.ordinal, i.settled_state as state, i.captions, i.fields, l.image_class_ids as classes,
          coalesce((select jsonb_agg(jsonb_build_object('class', o.class_id, 'value', o.value) order by o.nth)
            from incoming_objects o where o.ordinal = i.ordinal), '[]') as objects
        from incoming i join incoming_labels l on l.ordinal = i.ordinal
        where i.image_id is not null and i.settled_state <> 'unlabeled' ${fits} and i.ordinal > ${last}
        order by i.ordinal limit ${relabelingPage}`,
    );
    const byImage = new Map(page.map((row) => [row.image, incomingLabels(row)]));
    const { changed: images } = await changeLabels(
      tx,
      act,
      [...byImage.keys()],
      ({ labels }, id) => {
        const incoming = byImage.get(id) as Incoming;
        return mode === "add" ? addSteps(labels, incoming) : replaceSteps(labels, incoming);
      },
      { objects: "whole" },
    );
    relabeled += images;
    if (page.length < relabelingPage) return relabeled;
    last = page.at(-1)?.ordinal ?? last;
  }
}
