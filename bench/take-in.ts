import { untilDone } from "@larder/server/jobs/wait";
import { localActor } from "@larder/server/services/actor";
import { takeInDelivery } from "@larder/server/services/deliveries";
import { receiveArchive } from "@larder/server/services/intake/receive";

/** Takes an archive into a collection, from its arrival to the shelf, and leaves the file; the delivery's number. */
export async function takeInArchive(collectionId: number, archive: string): Promise<number> {
  const arrival = { collectionId, archive, keep: true, fileName: "bench.zip" };
  const { id, job } = await receiveArchive(localActor, arrival);
  await untilDone(job);
  await untilDone((await takeInDelivery(localActor, id)).job as string);
  return id;
}
