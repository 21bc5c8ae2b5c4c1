/** The act that a delivery's taking in is in its collection's history. */
import type { Transaction } from "../../../db/database";
import { acts, type deliveries } from "../../../db/schema";

export async function insertAct(
  tx: Transaction,
  delivery: typeof deliveries.$inferSelect,
  actor: string,
): Promise<number> {
  const { id, collectionId, name } = delivery;
  const [act] = await tx
    .insert(acts)
    .values({ collectionId, kind: "take-in", text: `took in ${name}`, actor, via: { kind: "delivery", id } })
    .returning({ id: acts.id });
  return act?.id as number;
}
