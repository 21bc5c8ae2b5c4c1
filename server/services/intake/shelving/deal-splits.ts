/** The splits of images that are new in stock, as the sheet says. */
import type { IntakeChoices } from "@larder/core/intake/choices";
import { deal } from "@larder/core/splitting/deal";
import { sql } from "drizzle-orm";
import { z } from "zod";
import type { Transaction } from "../../../db/database";
import { rowsOf } from "../../../db/query";

const newcomerSchema = z.object({
  key: z.string(),
  counts: z.record(z.string(), z.number()),
  image: z.array(z.number()),
});

/** Settles the splits of newcomers; what is in stock stays where it is. */
export async function dealSplits(tx: Transaction, choice: IntakeChoices["splits"]): Promise<void> {
  if (choice.mode === "keep") await tx.execute(sql`update incoming set dealt = split`);
  if (choice.mode === "all") await tx.execute(sql`update incoming set dealt = ${choice.split}`);
  if (choice.mode !== "deal") return;
  const rows = await rowsOf(
    tx,
    newcomerSchema,
    sql`select i.sha256 as key, l.class_counts as counts, l.image_class_ids::int[] as image
      from incoming i join incoming_labels l on l.ordinal = i.ordinal where i.image_id is null`,
  );
  const dealt = deal(
    rows.map(({ key, counts, image }) => {
      const labels = new Map(Object.entries(counts));
      for (const id of image) labels.set(String(id), (labels.get(String(id)) ?? 0) + 1);
      return { key, classes: labels };
    }),
    choice.ratio,
    choice.seed,
  );
  const assigned = JSON.stringify([...dealt].map(([sha256, split]) => ({ sha256, split })));
  await tx.execute(
    sql`update incoming i set dealt = s.split from jsonb_to_recordset(${assigned}::jsonb) as s(sha256 text, split text) where s.sha256 = i.sha256`,
  );
}
