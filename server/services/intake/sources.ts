/** What deliveries can be brought from, beside what a browser sends: to be shown and looked through. */
import { ListObjectsV2Command, S3Client } from "@aws-sdk/client-s3";
import { Failure } from "@larder/core/model/failure";
import { isImagePath, isLitter } from "@larder/core/model/file-tree";
import { existsSync } from "node:fs";
import { readdir } from "node:fs/promises";
import { settings } from "../../settings";
import { allowHere } from "../access";
import type { Actor } from "../actor";
import { serverFolder } from "./origin";
import { samples, type Sample } from "./samples";

export type Sources = { folders: string[]; buckets: string[]; samples: Sample[]; addressesAllowed: string[] };

export function sources(actor: Actor): Sources {
  allowHere(actor, "see");
  const { folders, buckets, addresses } = settings();
  return {
    folders: folders.filter(({ place }) => existsSync(place)).map(({ name }) => name),
    buckets: buckets.map(({ name }) => name),
    samples: samples(),
    addressesAllowed: addresses.allowed,
  };
}

/** One level of a folder or bucket: what lies below, and how many pictures and other files lie here. */
export type Level = { folders: string[]; pictures: number; others: number; more: boolean };

const shownAtMost = 500;

export async function folderLevel(actor: Actor, root: string, path: string): Promise<Level> {
  allowHere(actor, "deliver");
  const entries = (await readdir(await serverFolder(root, path), { withFileTypes: true })).filter(
    (entry) => !isLitter(entry.name) && !entry.name.startsWith("."),
  );
  const folders = entries
    .filter((entry) => entry.isDirectory())
    .map(({ name }) => name)
    .sort();
  const files = entries.filter((entry) => entry.isFile());
  const pictures = files.filter(({ name }) => isImagePath(name)).length;
  return {
    folders: folders.slice(0, shownAtMost),
    pictures,
    others: files.length - pictures,
    more: folders.length > shownAtMost,
  };
}

export async function bucketLevel(actor: Actor, bucket: string, prefix: string): Promise<Level> {
  allowHere(actor, "deliver");
  const access = settings().buckets.find(({ name }) => name === bucket);
  if (!access)
    throw new Failure("bucket-missing", `There is no bucket called ${bucket} in the settings (LARDER_BUCKETS).`, 404);
  const client = new S3Client({
    region: access.region,
    ...(access.endpoint ? { endpoint: access.endpoint, forcePathStyle: true } : {}),
    credentials: { accessKeyId: access.accessKeyId, secretAccessKey: access.secretAccessKey },
  });
  const folder = prefix.replace(/^\/+|\/+$/g, "");
  const top = folder === "" ? "" : `${folder}/`;
  try {
    const page = await client.send(new ListObjectsV2Command({ Bucket: access.bucket, Prefix: top, Delimiter: "/" }));
    const keys = (page.Contents ?? []).map(({ Key = "" }) => Key).filter((key) => key !== top);
    const pictures = keys.filter(isImagePath).length;
    return {
      folders: (page.CommonPrefixes ?? []).map(({ Prefix = "" }) => Prefix.slice(top.length).replace(/\/$/, "")),
      pictures,
      others: keys.length - pictures,
      more: page.IsTruncated ?? false,
    };
  } catch (error) {
    throw new Failure(
      "bucket-failed",
      `The bucket ${bucket} does not answer as it should (${(error as Error).message || (error as Error).name}).`,
      502,
    );
  } finally {
    client.destroy();
  }
}
