/**
 * Resumable uploads of large files by the tus protocol (tus.io, 1.0): chunks of any number, going on where they
 * stopped.
 */
import { sentenceFor } from "@larder/core/model/failure";
import { uploadDays } from "@larder/server/services/intake/forgotten-uploads";
import { placeForFile } from "@larder/server/services/intake/receive";
import { settings } from "@larder/server/settings";
import { FileStore } from "@tus/file-store";
import { Server } from "@tus/server";
import { mkdirSync } from "node:fs";
import { rename, rm } from "node:fs/promises";
import path from "node:path";
import { actorOf } from "./actor";
import { z } from "zod";

const metadataSchema = z.object({
  path: z.string().trim().min(1).max(4000),
  delivery: z.coerce.number().int().positive(),
});
const shared = globalThis as { larderUploads?: Server };
/** An upload that nobody has gone on with for this long is swept. */
const expiry = uploadDays * 24 * 3600 * 1000;
const sweepEvery = 3600 * 1000;

export function uploads(): Server {
  if (shared.larderUploads) return shared.larderUploads;
  const folder = path.join(settings().home, "uploads", "unfinished");
  mkdirSync(folder, { recursive: true });
  const server = new Server({
    path: "/api/uploads",
    relativeLocation: true,
    datastore: new FileStore({ directory: folder, expirationPeriodInMilliseconds: expiry }),
    maxSize: settings().limits.archiveBytes,
    async onUploadCreate(request, upload) {
      const metadata = metadataSchema.safeParse(upload.metadata);
      if (!metadata.success) throw { status_code: 400, body: "An upload names its file and its delivery." };
      try {
        await placeForFile(await actorOf(request), metadata.data.delivery, metadata.data.path);
      } catch (error) {
        throw { status_code: 409, body: sentenceFor(error).message };
      }
      return {};
    },
    async onUploadFinish(request, upload) {
      const { path: relative, delivery } = metadataSchema.parse(upload.metadata);
      try {
        await rename(path.join(folder, upload.id), await placeForFile(await actorOf(request), delivery, relative));
        await rm(path.join(folder, `${upload.id}.json`), { force: true });
      } catch (error) {
        throw { status_code: 409, body: sentenceFor(error).message };
      }
      return {};
    },
  });
  const sweep = () => void server.cleanUpExpiredUploads().catch(() => undefined);
  sweep();
  setInterval(sweep, sweepEvery).unref();
  shared.larderUploads = server;
  return server;
}
