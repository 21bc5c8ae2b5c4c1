/** Links under which whoever has them can fetch one package, until they end. */
import { Failure } from "@larder/core/model/failure";
import { and, desc, eq, sql } from "drizzle-orm";
import { randomBytes } from "node:crypto";
import { z } from "zod";
import { sha256 } from "../blobs/store";
import { db } from "../db/database";
import { rowOf } from "../db/query";
import { packageLinks } from "../db/schema";
import { allow, withViewing } from "./access";
import type { Actor } from "./actor";
import { readyPackage } from "./packages";

const mostHours = 24 * 366;
export const linkSchema = z.object({
  /** After how many hours it ends. */
  hours: z.number().positive().max(mostHours, "A link ends after a year at the latest."),
});

export type PackageLink = { id: number; ends: Date; ended: boolean; by: string; made: Date };

const tokenBytes = 24;
const hashOf = (token: string) => sha256(Buffer.from(token));

/** Makes a link. What stands in its address is told this once: only its hash is kept. */
export async function makeLink(
  actor: Actor,
  packageId: number,
  { hours }: z.infer<typeof linkSchema>,
): Promise<{ id: number; path: string; ends: Date }> {
  await allow(actor, "build", { package: packageId });
  const { fileName } = await readyPackage(actor, packageId);
  const token = randomBytes(tokenBytes).toString("base64url");
  const ends = new Date(Date.now() + hours * 3_600_000);
  const [row] = await db()
    .insert(packageLinks)
    .values({ packageId, tokenHash: hashOf(token), endsAt: ends, createdBy: actor.id })
    .returning({ id: packageLinks.id });
  return { id: row?.id as number, path: `/packages/link/${token}/${fileName}`, ends };
}

/** The links of a package, newest first. */
export async function linksOf(actor: Actor, packageId: number): Promise<PackageLink[]> {
  await allow(actor, "see", { package: packageId });
  const rows = await db()
    .select()
    .from(packageLinks)
    .where(eq(packageLinks.packageId, packageId))
    .orderBy(desc(packageLinks.id))
    .limit(100);
  return rows.map(({ id, endsAt, createdBy, createdAt }) => ({
    id,
    ends: endsAt,
    ended: endsAt.getTime() <= Date.now(),
    by: createdBy,
    made: createdAt,
  }));
}

/** Ends a link at once. */
export async function endLink(actor: Actor, packageId: number, link: number): Promise<void> {
  await allow(actor, "build", { package: packageId });
  await db()
    .delete(packageLinks)
    .where(and(eq(packageLinks.id, link), eq(packageLinks.packageId, packageId)));
}

const heldSchema = z.object({
  package: z.coerce.number(),
  collection: z.coerce.number(),
  ends: z.coerce.date(),
});

/**
 * The package that a link's address means, and the actor with the right to look into its collection, which the link gives.
 * Throws a Failure where there is no such link, or it has ended.
 */
export async function holderOfLink(actor: Actor, token: string): Promise<{ holder: Actor; package: number }> {
  const held = await rowOf(
    db(),
    heldSchema,
    sql`select l.package_id as package, v.collection_id as collection, l.ends_at as ends
      from package_links l join packages p on p.id = l.package_id join versions v on v.id = p.version_id
      where l.token_hash = ${hashOf(token)}`,
  );
  if (!held) throw new Failure("link-missing", "There is no such link. Ask whoever sent it for another.", 404);
  if (held.ends.getTime() <= Date.now())
    throw new Failure("link-ended", "This link has ended. Ask whoever sent it for another.", 410);
  return { holder: withViewing(actor, held.collection), package: held.package };
}
