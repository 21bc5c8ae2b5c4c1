/** Who may do what: one rule, asked by every service with whatever it is called with. */
import { Failure } from "@larder/core/model/failure";
import { type SQL, sql } from "drizzle-orm";
import { z } from "zod";
import { db, type Database } from "../db/database";
import { rowOf } from "../db/query";
import { acts, classes, collections, deliveries, images, jobs, packages, plans, versions } from "../db/schema";
import type { Actor, Role } from "./actor";

/** What can be done to a collection, each with the role that it takes at least. */
const leastRole = {
  see: "viewer",
  download: "viewer",
  label: "editor",
  deliver: "editor",
  plan: "editor",
  build: "editor",
  manage: "owner",
} satisfies Record<string, Role>;
export type Verb = keyof typeof leastRole;

const ranks: Record<Role, number> = { viewer: 1, editor: 2, owner: 3 };

const refusals: Record<Verb, string> = {
  see: "You may not see this collection.",
  download: "You may not download from this collection.",
  label: "You may look at this collection but not change its labels.",
  deliver: "You may look at this collection but not bring anything into it.",
  plan: "You may look at this collection but not change its plans.",
  build: "You may look at this collection but not build versions of it.",
  manage: "Only an owner of this collection may do this.",
};

/** The actor's role in a collection, or, for null, in the installation as a whole. */
function roleIn(actor: Actor, collection: number | null): Role | null {
  if (actor.roles === null || typeof actor.roles === "string") return actor.roles;
  return collection === null ? null : (actor.roles.get(collection) ?? null);
}

/** The actor with the right to look into one collection more, as a link gives it. */
export function withViewing(actor: Actor, collection: number): Actor {
  if (roleIn(actor, collection) !== null) return actor;
  const others = actor.roles === null || typeof actor.roles === "string" ? [] : [...actor.roles];
  return { ...actor, roles: new Map([...others, [collection, "viewer"] as const]) };
}

/** Whether the actor may do this in a collection; null stands for the installation: making collections, its sources. */
export function may(actor: Actor, verb: Verb, collection: number | null): boolean {
  const role = roleIn(actor, collection);
  return role !== null && ranks[role] >= ranks[leastRole[verb]];
}

export type Target =
  | { collection: number }
  | { image: number }
  | { delivery: number }
  | { plan: number }
  | { version: number }
  | { package: number }
  | { act: number }
  | { class: number }
  | { job: string };

const collectionSchema = z.object({ collection: z.coerce.number().nullable() });

/** Tables whose rows belong to a collection. */
const belonging = {
  image: images,
  delivery: deliveries,
  plan: plans,
  version: versions,
  act: acts,
  class: classes,
  job: jobs,
};

/** The collection that something belongs to, as a query of one row at most. */
function collectionOf(kind: string, id: number | string): SQL {
  if (kind === "collection")
    return sql`select id as collection from ${collections} where id = ${id} and deleting_at is null`;
  if (kind === "package")
    return sql`select v.collection_id as collection from ${packages} p join ${versions} v on v.id = p.version_id where p.id = ${id}`;
  return sql`select collection_id as collection from ${belonging[kind as keyof typeof belonging]} where id = ${id}`;
}

function missing(kind: string, id: number | string): Failure {
  return new Failure(`${kind}-missing`, `There is no ${kind} ${id}. It may have been deleted.`, 404);
}

/**
 * Lets an actor do something to a collection, or to an image, delivery, plan, version, package, act or job of it, and
 * returns the collection's id. What is not there, and what the actor may not even see, is answered alike.
 */
export async function allow(actor: Actor, verb: Verb, target: Target, on: Database = db()): Promise<number> {
  const [kind, id] = Object.entries(target)[0] as [string, number | string];
  const found = await rowOf(on, collectionSchema, collectionOf(kind, id));
  if (!found || !may(actor, "see", found.collection)) throw missing(kind, id);
  if (!may(actor, verb, found.collection)) throw new Failure("not-allowed", refusals[verb], 403);
  return found.collection ?? 0;
}

/** Lets an actor do something that belongs to no collection: make one, look through what can be delivered from. */
export function allowHere(actor: Actor, verb: Verb): void {
  if (!may(actor, verb, null)) throw new Failure("not-allowed", refusals[verb], 403);
}
