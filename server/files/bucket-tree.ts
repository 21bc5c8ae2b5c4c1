/** An object store's prefix as a file tree, by the S3 protocol. */
import { GetObjectCommand, ListObjectsV2Command, S3Client } from "@aws-sdk/client-s3";
import { Failure } from "@larder/core/model/failure";
import { isLitter, unsafeName, type FileEntry, type FileTree } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import type { Readable } from "node:stream";
import { setTimeout as sleep } from "node:timers/promises";

/** A bucket somebody configured; `name` is what people call it. */
export type BucketAccess = {
  name: string;
  endpoint?: string | undefined;
  region: string;
  bucket: string;
  accessKeyId: string;
  secretAccessKey: string;
};

const resumptions = 6;

function sentence(error: unknown, access: BucketAccess): Failure {
  const { name, message, $metadata } = error as Error & { $metadata?: { httpStatusCode?: number } };
  const status = $metadata?.httpStatusCode;
  if (name === "NoSuchBucket") return new Failure("bucket-missing", `There is no bucket ${access.bucket} there.`);
  if (name === "NoSuchKey") return new Failure("file-missing", "The file is not in the bucket any more.");
  if (status === 403) return new Failure("bucket-refused", `The bucket ${access.name} refuses its key.`);
  return new Failure(
    "bucket-failed",
    `The bucket ${access.name} does not answer as it should (${status ? `${status} ` : ""}${message || name}).`,
  );
}

export class BucketTree implements FileTree {
  private readonly client: S3Client;
  private listed: Promise<FileEntry[]> | null = null;
  private readonly tags = new Map<string, string>();
  private readonly sizes = new Map<string, number>();

  /** `prefix` is taken as a folder; `timeout` is for one answer, in milliseconds. */
  constructor(
    private readonly access: BucketAccess,
    private readonly prefix: string,
    private readonly report: Findings,
    timeout: number,
  ) {
    this.client = new S3Client({
      region: access.region,
      ...(access.endpoint ? { endpoint: access.endpoint, forcePathStyle: true } : {}),
      credentials: { accessKeyId: access.accessKeyId, secretAccessKey: access.secretAccessKey },
      maxAttempts: 6,
      retryMode: "standard",
      requestHandler: {
        connectionTimeout: Math.min(timeout, 10_000),
        requestTimeout: timeout,
        throwOnRequestTimeout: true,
        socketTimeout: timeout,
      },
    });
  }

  private get folder(): string {
    const bare = this.prefix.replace(/^\/+|\/+$/g, "");
    return bare === "" ? "" : `${bare}/`;
  }

  entries(): Promise<FileEntry[]> {
    this.listed ??= this.list();
    return this.listed;
  }

  private async list(): Promise<FileEntry[]> {
    const found: FileEntry[] = [];
    let after: string | undefined;
    do {
      const page = await this.client
        .send(new ListObjectsV2Command({ Bucket: this.access.bucket, Prefix: this.folder, ContinuationToken: after }))
        .catch((error: unknown) => {
          throw sentence(error, this.access);
        });
      for (const { Key: key = "", Size: size = 0, ETag: tag = "" } of page.Contents ?? []) {
        const path = key.slice(this.folder.length);
        if (path === "" || path.endsWith("/") || isLitter(path)) continue;
        const unsafe = unsafeName(path);
        if (unsafe) {
          this.report.add("entry-unsafe", key.slice(0, 200), unsafe);
          continue;
        }
        found.push({ path, size });
        this.tags.set(path, tag);
        this.sizes.set(path, size);
      }
      after = page.IsTruncated ? page.NextContinuationToken : undefined;
    } while (after !== undefined);
    return found.sort((a, b) => (a.path < b.path ? -1 : 1));
  }

  /** The object's ETag, which changes with its bytes; "" before the listing. */
  stampOf(path: string): string {
    return this.tags.get(path) ?? "";
  }

  /**
   * A range is asked for again from where a cut connection left it. The object's tag guards against a change in
   * between.
   */
  async *streamRange(path: string, start: number, end: number): AsyncIterable<Uint8Array> {
    let at = start;
    for (let broken = 0; at < end;) {
      try {
        const answer = await this.client.send(
          new GetObjectCommand({
            Bucket: this.access.bucket,
            Key: this.folder + path,
            Range: `bytes=${at}-${end - 1}`,
            ...(this.tags.get(path) ? { IfMatch: this.tags.get(path) } : {}),
          }),
        );
        for await (const chunk of answer.Body as Readable) {
          at += (chunk as Uint8Array).length;
          yield chunk as Uint8Array;
        }
        if (at < end) throw new Error("the connection was cut");
      } catch (error) {
        const status = (error as { $metadata?: { httpStatusCode?: number } }).$metadata?.httpStatusCode;
        if (status === 412)
          throw new Failure(
            "file-changed",
            "The file was changed in the bucket while it was read. Scan the bucket again.",
          );
        if ((status !== undefined && status < 500) || ++broken > resumptions) throw sentence(error, this.access);
        await sleep(100 * 2 ** broken);
      }
    }
  }

  private async sizeOf(path: string): Promise<number> {
    await this.entries();
    const size = this.sizes.get(path);
    if (size === undefined)
      throw new Failure("file-missing", `There is no ${path} under ${this.prefix || "the bucket's top"}.`);
    return size;
  }

  async *stream(path: string): AsyncIterable<Uint8Array> {
    yield* this.streamRange(path, 0, await this.sizeOf(path));
  }

  async readRange(path: string, start: number, end: number): Promise<Uint8Array> {
    const chunks: Uint8Array[] = [];
    for await (const chunk of this.streamRange(path, start, Math.min(end, await this.sizeOf(path)))) chunks.push(chunk);
    return Buffer.concat(chunks);
  }

  read(path: string): Promise<Uint8Array> {
    return this.readRange(path, 0, Infinity);
  }

  close(): void {
    this.client.destroy();
  }
}
