/** What service tests need of the world: archives, workers, waiting. */
import { spawn, type ChildProcess } from "node:child_process";
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import sharp from "sharp";
import yazl from "yazl";
import type { Split } from "@larder/core/model/item";
import { selectionSchema, type Selection } from "@larder/core/selection/chosen";
import { work } from "../jobs/work";
import { untilEnded } from "../jobs/wait";

import { jobHandlers } from "../services/job-handlers";
import { localActor } from "../services/actor";
import { act, type ActOutcome } from "../services/acts";
import { deliveryRow, takeInDelivery, undoDelivery } from "../services/deliveries";
import { receiveArchive } from "../services/intake/receive";
import { programFile } from "../program-file";
import { settings } from "../settings";

export type Files = Record<string, string | Uint8Array>;

/** A small picture whose colours are its own, so that no two have the same bytes. */
export function picture(n: number, width = 64, height = 48): Promise<Uint8Array> {
  return sharp({
    create: {
      width,
      height,
      channels: 3,
      background: { r: (n * 37) % 256, g: (n * 91) % 256, b: Math.floor(n / 7) % 256 },
    },
  })
    .jpeg()
    .toBuffer();
}

/** A larger picture of noise, so that working on it takes a moment. */
export function noisyPicture(n: number, width = 1600, height = 1200): Promise<Uint8Array> {
  const raw = new Uint8Array(width * height * 3);
  let state = n * 2654435761 + 1;
  for (let i = 0; i < raw.length; i++) raw[i] = (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) >>> 24;
  return sharp(raw, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 60 })
    .toBuffer();
}

export async function zipBytes(files: Files, modes: Record<string, number> = {}): Promise<Buffer> {
  const zip = new yazl.ZipFile();
  for (const [name, content] of Object.entries(files))
    zip.addBuffer(Buffer.from(content), name, modes[name] ? { mode: modes[name] } : {});
  zip.end();
  const chunks: Buffer[] = [];
  for await (const chunk of zip.outputStream) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks);
}

export function saveArchive(name: string, bytes: Uint8Array): string {
  const folder = path.join(settings().home, "uploads");
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, name);
  writeFileSync(file, bytes);
  return file;
}

/** Brings an archive and waits until it is read. */
export async function deliver(collectionId: number, archive: string) {
  const { id, job } = await receiveArchive(localActor, {
    keep: true,
    collectionId,
    archive,
    fileName: path.basename(archive),
  });
  await untilEnded(job);
  return deliveryRow(id);
}

/** Brings an archive and takes it in. */
export async function deliverAndTakeIn(collectionId: number, archive: string) {
  const { id } = await deliver(collectionId, archive);
  const { job } = await takeInDelivery(localActor, id);
  if (job) await untilEnded(job);
  return deliveryRow(id);
}

/** Moves images to a split, and waits where that is a job. */
export async function moveImages(collection: number, ids: number[], split: Split | null): Promise<ActOutcome> {
  const outcome = await act(localActor, collection, {
    only: ids,
    act: { do: "move", split },
  });
  if (outcome.job) await untilEnded(outcome.job);
  return outcome;
}

/** Undoes a delivery, or puts it aside, and waits for the end of that. */
export async function undoWhole(delivery: number): Promise<void> {
  const { job } = await undoDelivery(localActor, delivery);
  if (job) await untilEnded(job);
}

export const startWorker = () => work(jobHandlers, 2);

/** A worker in a process of its own, that can be killed. */
export function spawnWorker(): ChildProcess {
  return spawn(process.execPath, [programFile("worker")], {
    cwd: settings().root,
    env: { ...process.env, LARDER_IMAGES_AT_ONCE: "1" },
    stdio: ["ignore", "ignore", "inherit"],
  });
}

/** A COCO archive of `count` pictures, two boxes each. */
export async function cocoFiles(
  count: number,
  draw: (n: number) => Promise<Uint8Array> = (n) => picture(n),
  first = 0,
): Promise<Files> {
  const files: Files = {};
  const images = [];
  const annotations = [];
  for (let n = first; n < first + count; n++) {
    files[`images/p${n}.jpg`] = await draw(n);
    const { width = 0, height = 0 } = await sharp(files[`images/p${n}.jpg`] as Uint8Array).metadata();
    images.push({ id: n, width, height, file_name: `p${n}.jpg` });
    annotations.push(
      { id: n * 2, image_id: n, category_id: 1, bbox: [1 + (n % 5), 2, 10, 12] },
      { id: n * 2 + 1, image_id: n, category_id: n % 3 === 0 ? 3 : 2, bbox: [20, 20, 15.5, 10] },
    );
  }
  files["annotations.json"] = JSON.stringify({
    images,
    annotations,
    categories: [
      { id: 1, name: "roll" },
      { id: 2, name: "loaf" },
      { id: 3, name: "tart" },
    ],
  });
  return files;
}

/** Everything that is in stock. */
export const wholeStock: Selection = selectionSchema.parse({});

/** The images that a text of the selection language means; `only` names them by hand. */
export const where = (text: string, only: number[] | null = null): Selection =>
  selectionSchema.parse({ where: text, only });
