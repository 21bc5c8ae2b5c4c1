/** Loads Millrace Bakery the way a person would: deliveries read and taken in, plans written, versions built. */
import { planSchema } from "@larder/core/plans/plan";
import { demoArchives } from "@larder/demo/archives";
import { drawShelf } from "@larder/demo/shelf";
import { db } from "@larder/server/db/database";
import { collections, jobs } from "@larder/server/db/schema";
import { untilDone } from "@larder/server/jobs/wait";
import { localActor } from "@larder/server/services/actor";
import { createCollection } from "@larder/server/services/collections";
import { takeInDelivery } from "@larder/server/services/deliveries";
import { receiveArchive } from "@larder/server/services/intake/receive";
import { createPlan } from "@larder/server/services/plans";
import { addScores } from "@larder/server/services/version-scores";
import { startBuild } from "@larder/server/services/versions";
import { programFile } from "@larder/server/program-file";
import { sql } from "drizzle-orm";
import { existsSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";

const rackPlan = planSchema.parse({
  relabel: { leaveOut: [], rename: { Croissant: "croissant" } },
  seed: 11,
  split: { ratio: { train: 70, val: 20, test: 10 } },
  prepare: { resize: { mode: "fit", width: 640, height: 640 } },
  augment: {
    copies: 1,
    unchanged: "leave-out",
    do: [
      { op: "flip-sideways", chance: "50%" },
      { op: "rotate", degrees: [-12, 12], chance: "60%" },
      {
        oneOf: [
          { op: "brightness", by: ["-20%", "20%"] },
          { op: "warmth", by: ["-40%", "40%"] },
        ],
        chance: "70%",
      },
      { op: "noise", sigma: [2, 6], chance: "30%" },
    ],
  },
  pack: { formats: ["yolo", "coco"] },
  gates: { "object-duplicate": 0, "box-tiny": 5 },
});
const tartless = planSchema.parse({
  relabel: { leaveOut: ["tart"], rename: { Croissant: "croissant" } },
  seed: 11,
  split: { ratio: { train: 80, val: 20, test: 0 } },
  augment: { copies: 2, do: [{ op: "flip-sideways", chance: 1 }] },
  pack: { formats: ["coco"] },
});
const basketPlan = planSchema.parse({
  seed: 3,
  split: { ratio: { train: 60, val: 20, test: 20 } },
  prepare: { resize: { mode: "stretch", width: 224, height: 224, larger: true } },
  pack: { formats: ["class-folders"] },
});

/** A table of scores as a trainer would write it: of all classes together, then of each. */
function scoreTable(rows: Record<string, readonly [precision: number, recall: number, map50: number]>): string {
  return ["class,precision,recall,mAP50", ...Object.entries(rows).map((row) => row.flat().join(","))].join("\n");
}

/** Made-up scores of models that were trained on the first two versions of the racks. */
const firstScores = {
  "small, 640 px": scoreTable({
    all: [0.71, 0.64, 0.66],
    roll: [0.83, 0.79, 0.81],
    croissant: [0.6, 0.55, 0.57],
    loaf: [0.74, 0.69, 0.7],
    baguette: [0.67, 0.53, 0.56],
  }),
};
const secondScores = {
  "small, 640 px": scoreTable({
    all: [0.78, 0.72, 0.74],
    roll: [0.88, 0.84, 0.87],
    croissant: [0.7, 0.66, 0.66],
    loaf: [0.79, 0.73, 0.75],
    baguette: [0.75, 0.65, 0.68],
  }),
  "large, 960 px": scoreTable({
    all: [0.82, 0.76, 0.79],
    roll: [0.9, 0.87, 0.9],
    croissant: [0.76, 0.71, 0.72],
    loaf: [0.83, 0.77, 0.8],
    baguette: [0.79, 0.69, 0.74],
  }),
};

/** Does nothing where there is a collection already. */
export async function loadDemo(home: string, share: number, say: (words: string) => void): Promise<void> {
  if (share === 0) return;
  if (!existsSync(path.join(home, "incoming"))) {
    say("Drawing the shelf of samples (once; less than a minute) …");
    await drawShelf(home, share);
  }
  const [existing] = await db()
    .select({ n: sql<number>`count(*)::int` })
    .from(collections);
  if ((existing?.n ?? 0) > 0) return;
  say("Drawing the demo's pictures (once; a few minutes) …");
  const archives = await demoArchives(path.join(home, "demo"), share, programFile("draw-demo"));
  say("Taking the demo in …");
  const ids = new Map<string, number>();
  for (const { collection, name, fileName, waiting, path: file } of archives) {
    const id = ids.get(collection) ?? (await createCollection(localActor, { name: collection })).id;
    ids.set(collection, id);
    const delivery = await receiveArchive(localActor, {
      collectionId: id,
      archive: file,
      keep: true,
      fileName,
      name,
    });
    await untilDone(delivery.job);
    if (waiting) continue;
    const { job } = await takeInDelivery(localActor, delivery.id);
    if (job) await untilDone(job);
  }
  say("Building the demo's versions …");
  const racks = ids.get("Cooling racks") as number;
  const everyday = await createPlan(localActor, racks, { name: "Everyday set", body: rackPlan });
  const plain = await createPlan(localActor, racks, { name: "Without tarts", body: tartless });
  const baskets = await createPlan(localActor, ids.get("Proving baskets") as number, {
    name: "Proof check",
    body: basketPlan,
  });
  for (const [planId, note, scores] of [
    [plain.id, "A first try, as the pictures are.", firstScores],
    [everyday.id, "First set for the rack camera.", secondScores],
    [baskets.id, "Small squares for the classifier.", {}],
  ] as const) {
    const { id, job } = await startBuild(localActor, { planId, note });
    await untilDone(job);
    for (const [model, text] of Object.entries(scores)) await addScores(localActor, id, { model, text });
  }
  for (;;) {
    const [open] = await db()
      .select({ n: sql<number>`count(*)::int` })
      .from(jobs)
      .where(sql`${jobs.status} in ('queued', 'running')`);
    if ((open?.n ?? 0) === 0) break;
    await sleep(200);
  }
}
