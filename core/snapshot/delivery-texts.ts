import type { Snapshot, SnapshotDelivery } from "./snapshot";

/** By the index of a delivery: what it says of one fact; "" where it says nothing. */
export function textsByDelivery(snapshot: Snapshot, fact: keyof Omit<SnapshotDelivery, "id" | "listed">): string[] {
  const byId = new Map(snapshot.deliveries.map((delivery) => [delivery.id, delivery[fact]]));
  return snapshot.deliveryIds.map((id) => byId.get(id) ?? "");
}
