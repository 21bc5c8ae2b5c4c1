/** Where an image goes: the versions that hold it, as which outputs, and each plan's split for it or why it leaves. */
import { sentenceFor } from "@larder/core/model/failure";
import type { Split } from "@larder/core/model/item";
import { readLine } from "@larder/core/versions/manifest";
import { and, desc, eq, isNotNull } from "drizzle-orm";
import { createInterface } from "node:readline";
import { z } from "zod";
import { blobs } from "../blobs/store";
import { db } from "../db/database";
import { images, versions, versionSources } from "../db/schema";
import { ask } from "../snapshot/ask";
import type { PlanDestination } from "../snapshot/questions";
import { allow } from "./access";
import type { Actor } from "./actor";
import { plansOf } from "./plans";
import { resolvePlan } from "./planning/resolve-plan";

export type ImageDestinations = {
  versions: { number: number; name: string; split: Split; outputs: string[] }[];
  /** `problem` says why a plan could not be asked, as where it names what is gone. */
  plans: ({ id: number; name: string } & (PlanDestination | { problem: string }))[];
};

/** As many of the newest versions are looked through. */
const mostVersions = 10;
const mostOutputs = 20;

/** The outputs of a source in a manifest; only lines that name it are read as more than text. */
async function outputsOf(digest: string, source: string): Promise<{ split: Split; outputs: string[] } | null> {
  let found: { split: Split; outputs: string[] } | null = null;
  const named = JSON.stringify(source);
  for await (const text of createInterface({ input: await blobs().stream(digest), crlfDelay: Infinity })) {
    if (!text.includes(named)) continue;
    const line = readLine(text);
    if (line.source !== source) continue;
    found ??= { split: line.split, outputs: [] };
    if (found.outputs.length < mostOutputs) found.outputs.push(line.name);
  }
  return found;
}

const rowSchema = z.object({ collection: z.number(), sha256: z.string() });

export async function imageDestinations(actor: Actor, image: number): Promise<ImageDestinations> {
  const collection = await allow(actor, "see", { image });
  const [row] = await db()
    .select({ collection: images.collectionId, sha256: images.sha256 })
    .from(images)
    .where(eq(images.id, image));
  const { sha256 } = rowSchema.parse(row);
  const holding = await db()
    .select({ number: versions.number, name: versions.name, digest: versions.digest })
    .from(versionSources)
    .innerJoin(versions, eq(versions.id, versionSources.versionId))
    .where(and(eq(versionSources.sha256, sha256), eq(versions.collectionId, collection), isNotNull(versions.number)))
    .orderBy(desc(versions.number))
    .limit(mostVersions);
  const held = await Promise.all(
    holding.map(async ({ number, name, digest }) => {
      const outputs = digest ? await outputsOf(digest, sha256) : null;
      return outputs && number !== null ? [{ number, name, ...outputs }] : [];
    }),
  );
  const plans = await Promise.all(
    (await plansOf(actor, collection)).map(async ({ id, name, body }) => {
      try {
        const question = await resolvePlan(collection, body);
        return { id, name, ...(await ask("destination", collection, { ...question, key: sha256 })) };
      } catch (error) {
        return { id, name, problem: sentenceFor(error).message };
      }
    }),
  );
  return { versions: held.flat(), plans };
}
