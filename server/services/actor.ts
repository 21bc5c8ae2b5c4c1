import { Failure } from "@larder/core/model/failure";

/** Who acts. Services take it first and check what it may do. */
export type Actor = { id: string; name: string; role: "owner" | "editor" | "viewer" };

/** The one person of an installation without accounts. */
export const localActor: Actor = { id: "local", name: "You", role: "owner" };

/** Throws where the actor may only look. */
export function mustEdit(actor: Actor): void {
  if (actor.role === "viewer")
    throw new Failure("not-allowed", "You may look at this collection but not change it.", 403);
}
