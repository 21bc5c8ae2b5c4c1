/** Resumable uploads by the tus protocol (tus.io, 1.0): chunks of any number, going on where they stopped. */
import { sentenceFor } from "@larder/core/model/failure";
import { localActor } from "@larder/server/services/actor";
import { receiveDelivery } from "@larder/server/services/deliveries";
import { settings } from "@larder/server/settings";
import { FileStore } from "@tus/file-store";
import { Server } from "@tus/server";
import { mkdirSync } from "node:fs";
import path from "node:path";
import { z } from "zod";

const metadataSchema = z.object({ filename: z.string().trim().min(1).max(255), collection: z.coerce.number().int().positive() });
const held = globalThis as { larderUploads?: Server };

export function uploads(): Server {
  if (held.larderUploads) return held.larderUploads;
  const folder = path.join(settings().home, "uploads");
  mkdirSync(folder, { recursive: true });
  held.larderUploads = new Server({
    path: "/api/uploads",
    relativeLocation: true,
    datastore: new FileStore({ directory: folder }),
    maxSize: settings().limits.archiveBytes,
    async onUploadCreate(_request, upload) {
      if (!metadataSchema.safeParse(upload.metadata).success) throw { status_code: 400, body: "An upload names its file and its collection." };
      return {};
    },
    async onUploadFinish(_request, upload) {
      const { filename, collection } = metadataSchema.parse(upload.metadata);
      try {
        const { id } = await receiveDelivery(localActor, { collectionId: collection, archive: path.join(folder, upload.id), fileName: filename, bytes: upload.size ?? 0 });
        return { headers: { "larder-delivery": String(id) } };
      } catch (error) {
        throw { status_code: 409, body: sentenceFor(error).message };
      }
    },
  });
  return held.larderUploads;
}
