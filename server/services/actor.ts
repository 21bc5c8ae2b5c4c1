/** Who acts. Services take it first; `allow` (access.ts) says what it may do. */
export type Role = "owner" | "editor" | "viewer";

export type Actor = {
  id: string;
  name: string;
  /** The role by collection, or one for all of them; null for nobody who may anything. */
  roles: Role | ReadonlyMap<number, Role> | null;
};

/** The one person of an installation without accounts. */
export const localActor: Actor = { id: "local", name: "You", roles: "owner" };

/** Larder itself: what it does unasked, once a day or after something else. */
export const larderActor: Actor = { id: "larder", name: "Larder", roles: "owner" };
