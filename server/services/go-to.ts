import { selecting } from "@larder/core/selection/dimensions";
import { sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/database";
import { rowsOf } from "../db/query";
import { may } from "./access";
import type { Actor } from "./actor";

export type Destination = {
  kind: "collection" | "delivery" | "plan" | "version" | "class" | "image";
  name: string;
  where: string;
  href: string;
};

const rowSchema = z.object({
  kind: z.enum(["collection", "delivery", "plan", "version", "class", "image"]),
  name: z.string(),
  where: z.string(),
  collection: z.coerce.number(),
  id: z.coerce.number(),
});

function addressOf({ kind, collection, id, name }: z.infer<typeof rowSchema>): string {
  const base = `/c/${collection}`;
  if (kind === "plan") return `${base}/plans/${id}`;
  if (kind === "version") return `${base}/versions`;
  if (kind === "delivery") return `${base}/deliveries/${id}`;
  if (kind === "class")
    return `${base}/stock?${new URLSearchParams({ where: selecting({ class: [name] }) }).toString()}`;
  return kind === "image" ? `${base}/stock/${id}` : `${base}/stock`;
}

/** One kind of thing by name: a few of those that the actor may see. */
const kinds: { kind: Destination["kind"]; name: SQL; from: SQL; limit: number; order: SQL }[] = [
  {
    kind: "collection",
    name: sql`c.name`,
    from: sql`(select id, id as collection_id from collections) x`,
    limit: 8,
    order: sql`c.name`,
  },
  { kind: "plan", name: sql`x.name`, from: sql`plans x`, limit: 5, order: sql`x.id desc` },
  {
    kind: "version",
    name: sql`'v' || x.number || ' ' || x.name`,
    from: sql`versions x`,
    limit: 5,
    order: sql`x.id desc`,
  },
  { kind: "delivery", name: sql`x.name`, from: sql`deliveries x`, limit: 5, order: sql`x.id desc` },
  {
    kind: "class",
    name: sql`x.name`,
    from: sql`(select * from classes where merged_into is null and removed_at is null) x`,
    limit: 6,
    order: sql`x.position`,
  },
  {
    kind: "image",
    name: sql`x.name`,
    from: sql`(select * from images where removed_at is null) x`,
    limit: 6,
    order: sql`x.id`,
  },
];

/** Everything whose name holds `text`, a few of each kind. */
export async function goTo(actor: Actor, text: string): Promise<Destination[]> {
  const wanted = text.trim();
  const pattern = `%${wanted.replace(/[\\%_]/g, "\\$&")}%`;
  const found = await Promise.all(
    kinds
      .filter(({ kind }) => kind !== "image" || wanted.length >= 2)
      .map(({ kind, name, from, limit, order }) =>
        rowsOf(
          db(),
          rowSchema,
          sql`select ${kind} as kind, ${name} as name, c.name as where, c.id as collection, x.id from ${from} join collections c on c.id = x.collection_id
            where c.deleting_at is null and ${name} ilike ${pattern} order by ${order} limit ${limit}`,
        ),
      ),
  );
  return found
    .flat()
    .filter(({ collection }) => may(actor, "see", collection))
    .map((row) => ({
      kind: row.kind,
      name: row.name,
      where: row.kind === "collection" ? "" : row.where,
      href: addressOf(row),
    }));
}
