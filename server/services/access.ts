/** Who may do what: one rule, asked by every service with whatever it is called with. */
import { Failure } from "@larder/core/model/failure";
import { eq, type SQL, sql } from "drizzle-orm";
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

const finders: Record<string, { words: string; query: (id: number | string) => SQL }> = {
  collection: {
    words: "collection",
    query: (id) =>
      sql`select id as collection from ${collections} where ${eq(collections.id, id as number)} and deleting_at is null`,
  },
  image: {
    words: "image",
    query: (id) => sql`select collection_id as collection from ${images} where ${eq(images.id, id as number)}`,
  },
  delivery: {
    words: "delivery",
    query: (id) => sql`select collection_id as collection from ${deliveries} where ${eq(deliveries.id, id as number)}`,
  },
  plan: {
    words: "plan",
    query: (id) => sql`select collection_id as collection from ${plans} where ${eq(plans.id, id as number)}`,
  },
  version: {
    words: "version",
    query: (id) => sql`select collection_id as collection from ${versions} where ${eq(versions.id, id as number)}`,
  },
  package: {
    words: "package",
    query: (id) =>
      sql`select v.collection_id as collection from ${packages} p join ${versions} v on v.id = p.version_id where p.id = ${id}`,
  },
  act: {
    words: "act",
    query: (id) => sql`select collection_id as collection from ${acts} where ${eq(acts.id, id as number)}`,
  },
  class: {
    words: "class",
    query: (id) => sql`select collection_id as collection from ${classes} where ${eq(classes.id, id as number)}`,
  },
  job: {
    words: "job",
    query: (id) => sql`select collection_id as collection from ${jobs} where ${eq(jobs.id, id as string)}`,
  },
};

function missing(kind: string, id: number | string): Failure {
  const { words } = finders[kind] as { words: string };
  return new Failure(`${kind}-missing`, `There is no ${words} ${id}. It may have been deleted.`, 404);
}

/**
 * Lets an actor do something to a collection, or to an image, delivery, plan, version, package, act or job of it, and
 * returns the collection's id. What is not there, and what the actor may not even see, is answered alike.
 */
export async function allow(actor: Actor, verb: Verb, target: Target, on: Database = db()): Promise<number> {
  const [kind, id] = Object.entries(target)[0] as [string, number | string];
  const found = await rowOf(on, collectionSchema, (finders[kind] as (typeof finders)[string]).query(id));
  if (!found || !may(actor, "see", found.collection)) throw missing(kind, id);
  if (!may(actor, verb, found.collection)) throw new Failure("not-allowed", refusals[verb], 403);
  return found.collection ?? 0;
}

/** Lets an actor do something that belongs to no collection: make one, look through what can be delivered from. */
export function allowHere(actor: Actor, verb: Verb): void {
  if (!may(actor, verb, null)) throw new Failure("not-allowed", refusals[verb], 403);
}
