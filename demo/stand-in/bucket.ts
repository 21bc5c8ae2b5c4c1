/**
 * A small simulated object store: enough of the S3 protocol (ListObjectsV2, GetObject with ranges, HeadObject) to bring
 * deliveries from it, over a folder. It also serves the same files at plain web addresses, and can be made to
 * misbehave.
 * It knows its callers by their key alone and does not check signatures.
 */
import { createHash } from "node:crypto";
import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import { createReadStream, existsSync, readdirSync, readFileSync, statSync } from "node:fs";
import type { AddressInfo } from "node:net";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";

/** How the store misbehaves; every number counts requests for objects. */
export type Faults = {
  /** Waits before each answer, in milliseconds. */
  slow: number;
  /** Every n-th request is answered 503; 0 for none. */
  busyEvery: number;
  /** Every n-th answer is cut off in its middle; 0 for none. */
  cutEvery: number;
};

export type StandIn = { url: string; faults: Faults; requests: () => number; close: () => Promise<void> };

const escapes: Record<string, string> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" };
const xmlText = (text: string) => text.replace(/[&<>"]/g, (sign) => escapes[sign] as string);
const types: Record<string, string> = {
  ".jpg": "image/jpeg",
  ".png": "image/png",
  ".json": "application/json",
  ".pdf": "application/pdf",
};

function* keysBelow(folder: string, prefix = ""): Iterable<string> {
  for (const entry of readdirSync(path.join(folder, prefix), { withFileTypes: true }).sort((a, b) =>
    a.name < b.name ? -1 : 1,
  )) {
    const key = prefix === "" ? entry.name : `${prefix}/${entry.name}`;
    if (entry.isDirectory()) yield* keysBelow(folder, key);
    else yield key;
  }
}

function fail(response: ServerResponse, status: number, code: string): void {
  response.writeHead(status, { "content-type": "application/xml" });
  response.end(`<?xml version="1.0" encoding="UTF-8"?><Error><Code>${code}</Code><Message>${code}</Message></Error>`);
}

function list(folder: string, bucket: string, query: URLSearchParams): string {
  const prefix = query.get("prefix") ?? "";
  const delimiter = query.get("delimiter") ?? "";
  const most = Math.min(1000, Number(query.get("max-keys") ?? 1000));
  const after = query.get("continuation-token") ?? query.get("start-after") ?? "";
  const contents: string[] = [];
  const prefixes = new Set<string>();
  let next = "";
  const keys = [...keysBelow(folder)].sort();
  for (const key of keys) {
    if (!key.startsWith(prefix) || key <= after) continue;
    const cut = delimiter === "" ? -1 : key.indexOf(delimiter, prefix.length);
    if (cut >= 0) {
      prefixes.add(key.slice(0, cut + delimiter.length));
      continue;
    }
    if (contents.length === most) {
      next = keys[keys.indexOf(key) - 1] ?? "";
      break;
    }
    const full = path.join(folder, key);
    contents.push(
      `<Contents><Key>${xmlText(key)}</Key><LastModified>${statSync(full).mtime.toISOString()}</LastModified>` +
        `<ETag>&quot;${tagOf(full)}&quot;</ETag><Size>${statSync(full).size}</Size><StorageClass>STANDARD</StorageClass></Contents>`,
    );
  }
  const shared = [...prefixes]
    .map((entry) => `<CommonPrefixes><Prefix>${xmlText(entry)}</Prefix></CommonPrefixes>`)
    .join("");
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<ListBucketResult xmlns="http://s3.amazonaws.com/doc/2006-03-01/">',
    `<Name>${bucket}</Name><Prefix>${xmlText(prefix)}</Prefix>`,
    `<KeyCount>${contents.length}</KeyCount><MaxKeys>${most}</MaxKeys><IsTruncated>${next !== ""}</IsTruncated>`,
    next === "" ? "" : `<NextContinuationToken>${xmlText(next)}</NextContinuationToken>`,
    ...contents,
    shared,
    "</ListBucketResult>",
  ].join("");
}

function tagOf(file: string): string {
  return createHash("md5").update(readFileSync(file)).digest("hex");
}

/** Starts the stand-in over `folder`, whose subfolders are buckets; port 0 takes a free one. */
export async function startStandIn(folder: string, { port = 0, accessKeyId = "millrace" } = {}): Promise<StandIn> {
  const faults: Faults = { slow: 0, busyEvery: 0, cutEvery: 0 };
  let requests = 0;

  async function sendFile(request: IncomingMessage, response: ServerResponse, file: string): Promise<void> {
    requests++;
    const nth = requests;
    if (faults.slow > 0) await sleep(faults.slow);
    if (faults.busyEvery > 0 && nth % faults.busyEvery === 0) return fail(response, 503, "SlowDown");
    const { size } = statSync(file);
    const tag = `"${tagOf(file)}"`;
    if (request.headers["if-match"] !== undefined && request.headers["if-match"] !== tag)
      return fail(response, 412, "PreconditionFailed");
    const asked = /^bytes=(\d+)-(\d*)$/.exec(request.headers.range ?? "");
    const start = asked ? Number(asked[1]) : 0;
    const end = asked?.[2] ? Math.min(Number(asked[2]), size - 1) : size - 1;
    if (asked && start >= size) return fail(response, 416, "InvalidRange");
    const length = Math.max(0, end - start + 1);
    response.writeHead(asked ? 206 : 200, {
      "content-type": types[path.extname(file)] ?? "application/octet-stream",
      "content-length": length,
      etag: tag,
      "accept-ranges": "bytes",
      ...(asked ? { "content-range": `bytes ${start}-${end}/${size}` } : {}),
    });
    if (request.method === "HEAD" || length === 0) return void response.end();
    if (faults.cutEvery > 0 && nth % faults.cutEvery === 0) {
      const half = createReadStream(file, { start, end: start + Math.floor(length / 2) });
      half.on("end", () => response.destroy());
      return void half.pipe(response, { end: false });
    }
    createReadStream(file, { start, end }).pipe(response);
  }

  async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const url = new URL(request.url ?? "/", "http://stand-in");
    const [first = "", ...rest] = url.pathname.split("/").slice(1).map(decodeURIComponent);
    const key = rest.join("/");
    // A file lies below its bucket, and a bucket right below the folder.
    const inside = (bucketName: string, ...parts: string[]) => {
      const bucketFolder = path.resolve(folder, bucketName);
      const full = path.resolve(bucketFolder, ...parts);
      const safe =
        path.dirname(bucketFolder) === path.resolve(folder) &&
        (full === bucketFolder || full.startsWith(bucketFolder + path.sep));
      return safe && existsSync(full) ? full : null;
    };
    if (request.method !== "GET" && request.method !== "HEAD") return fail(response, 405, "MethodNotAllowed");
    if (first === "moved")
      return void response.writeHead(302, { location: `/pictures/${rest.map(encodeURIComponent).join("/")}` }).end();
    if (first === "elsewhere") return void response.writeHead(302, { location: "http://169.254.169.254/latest" }).end();
    if (first === "around") return void response.writeHead(302, { location: url.pathname }).end();
    if (first === "pictures") {
      const file = inside(rest[0] ?? "", ...rest.slice(1));
      return file && statSync(file).isFile() ? sendFile(request, response, file) : fail(response, 404, "NoSuchKey");
    }
    if (!(request.headers.authorization ?? "").includes(`Credential=${accessKeyId}/`))
      return fail(response, 403, "AccessDenied");
    const bucket = inside(first);
    if (!bucket) return fail(response, 404, "NoSuchBucket");
    if (key === "") {
      if (faults.slow > 0) await sleep(faults.slow);
      response.writeHead(200, { "content-type": "application/xml" });
      return void response.end(list(bucket, first, url.searchParams));
    }
    const file = inside(first, key);
    return file && statSync(file).isFile() ? sendFile(request, response, file) : fail(response, 404, "NoSuchKey");
  }

  const server = createServer((request, response) => {
    answer(request, response).catch(() => response.destroy());
  });
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(port, "127.0.0.1", resolve);
  });
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    faults,
    requests: () => requests,
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}
