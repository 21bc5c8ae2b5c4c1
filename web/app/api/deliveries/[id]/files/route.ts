import { answer } from "@/edge/answer";
import { readBytes } from "@/edge/body";
import { Failure } from "@larder/core/model/failure";
import { arrivedFiles, placeForFile } from "@larder/server/services/intake/receive";
import { writeFile } from "node:fs/promises";
import { z } from "zod";

const pathsSchema = z.array(z.string().min(1).max(4000)).min(1).max(2000);

/** A group of files as pages send it is 24 MB at most, one that is larger goes by itself in resumable pieces. */
const mostBytes = 64 << 20;

function parsedOrNull(json: string): unknown {
  try {
    return JSON.parse(json) as unknown;
  } catch {
    return null;
  }
}

/** What has arrived. */
export const GET = answer(({ actor, id }) => arrivedFiles(actor, id()));

/**
 * Many small files in one request: their paths as a JSON list, then the files in that order. Sending one again is
 * harmless.
 */
export const POST = answer(async ({ actor, request, id }) => {
  const type = request.headers.get("content-type") ?? "";
  const bytes = await readBytes(request, mostBytes);
  const form = await new Response(bytes, { headers: { "content-type": type } }).formData().catch(() => null);
  const files = form?.getAll("file") ?? [];
  const list = form?.get("paths");
  const paths = pathsSchema.safeParse(typeof list === "string" ? parsedOrNull(list) : null).data;
  if (!paths) throw new Failure("input-invalid", "The paths of the files are missing, or are no list of texts.");
  if (files.length !== paths.length) throw new Failure("input-invalid", "The number of files and of paths differ.");
  for (const [index, file] of files.entries()) {
    if (typeof file === "string") throw new Failure("input-invalid", "A file is missing.");
    await writeFile(await placeForFile(actor, id(), paths[index] as string), new Uint8Array(await file.arrayBuffer()));
  }
  return { taken: files.length };
});
