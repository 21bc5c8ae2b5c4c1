import { packageStream, readyPackage } from "@larder/server/services/packages";
import type { Actor } from "@larder/server/services/actor";
import { Readable } from "node:stream";
import { byteRange } from "./byte-range";

/** A package's bytes; ranges are answered, so that a broken download goes on. */
export async function packageAnswer(request: Request, actor: Actor, id: number): Promise<Response> {
  const pack = await readyPackage(actor, id);
  const tag = `"${pack.sha256}"`;
  const headers = new Headers({
    "content-type": "application/zip",
    "accept-ranges": "bytes",
    "cache-control": "private, no-cache",
    etag: tag,
    "content-disposition": `attachment; filename="${pack.fileName}"`,
    "repr-digest": `sha-256=:${Buffer.from(pack.sha256, "hex").toString("base64")}:`,
  });
  if (request.headers.get("if-none-match") === tag) return new Response(null, { status: 304, headers });
  const condition = request.headers.get("if-range");
  const range = condition === null || condition === tag ? byteRange(request.headers.get("range"), pack.bytes) : null;
  if (range === "unsatisfiable") {
    headers.set("content-range", `bytes */${pack.bytes}`);
    return new Response(null, { status: 416, headers });
  }
  headers.set("content-length", String(range ? range.end - range.start + 1 : pack.bytes));
  if (range) headers.set("content-range", `bytes ${range.start}-${range.end}/${pack.bytes}`);
  const body =
    request.method === "HEAD"
      ? null
      : (Readable.toWeb(await packageStream(actor, pack.id, range ?? undefined)) as ReadableStream<Uint8Array>);
  return new Response(body, { status: range ? 206 : 200, headers });
}
