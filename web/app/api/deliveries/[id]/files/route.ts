import { answer } from "@/edge/answer";
import { Failure } from "@larder/core/model/failure";
import { placeForFile } from "@larder/server/services/intake/receive";
import { writeFile } from "node:fs/promises";
import { z } from "zod";

const pathsSchema = z.array(z.string().min(1).max(4000)).min(1).max(2000);

/**
 * Many small files in one request: their paths as a JSON list, then the files in that order. Sending one again is
 * harmless.
 */
export const POST = answer(async ({ actor, request, id }) => {
  const form = await request.formData().catch(() => null);
  const files = form?.getAll("file") ?? [];
  const list = form?.get("paths");
  const paths = pathsSchema.parse(JSON.parse(typeof list === "string" ? list : "[]"));
  if (files.length !== paths.length) throw new Failure("input-invalid", "The number of files and of paths differ.");
  for (const [index, file] of files.entries()) {
    if (typeof file === "string") throw new Failure("input-invalid", "A file is missing.");
    await writeFile(await placeForFile(actor, id(), paths[index] as string), new Uint8Array(await file.arrayBuffer()));
  }
  return { taken: files.length };
});
