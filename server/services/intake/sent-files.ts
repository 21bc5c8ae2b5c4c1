import { and, eq, inArray } from "drizzle-orm";
import { existsSync } from "node:fs";
import { readdir, rm } from "node:fs/promises";
import path from "node:path";
import { db } from "../../db/database";
import { deliveries, type Delivery } from "../../db/schema";
import { settings } from "../../settings";

/** Where what is sent for deliveries is put; each has a folder of its own. */
export function uploadsFolder(): string {
  return path.join(settings().home, "uploads");
}

/** The folder of what is sent for a delivery. */
export function uploadFolder(deliveryId: number): string {
  return path.join(uploadsFolder(), `delivery-${deliveryId}`);
}

/** Deletes what was sent for deliveries that are taken in: everything of worth in it is in the store. */
export async function removeTakenFiles(): Promise<void> {
  if (!existsSync(uploadsFolder())) return;
  const sent = (await readdir(uploadsFolder())).flatMap((name) => /^delivery-(\d+)$/.exec(name)?.[1] ?? []).map(Number);
  const finished = await db()
    .select({ id: deliveries.id })
    .from(deliveries)
    .where(and(eq(deliveries.status, "taken"), inArray(deliveries.id, sent)));
  for (const { id } of finished) await rm(uploadFolder(id), { recursive: true, force: true });
}

/** Deletes what was sent for a delivery. */
export async function removeSentFiles({ id, origin }: Pick<Delivery, "id" | "origin">): Promise<void> {
  if (origin.kind === "files" || origin.kind === "addresses")
    await rm(uploadFolder(id), { recursive: true, force: true });
}
