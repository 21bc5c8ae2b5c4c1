/** What plans do to the stock and know of it: dealing made its own, changes since a version, ghosts of what is dropped. */
import { planFromYaml } from "@larder/core/plans/plan-text";
import { eq } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { db } from "../../db/database";
import { images } from "../../db/schema";
import { untilEnded } from "../../jobs/wait";
import { cocoFiles, deliverAndTakeIn, saveArchive, startWorker, wholeStock, zipBytes } from "../../tests/bakery";
import { localActor } from "../actor";
import { act, history, undoAct } from "../acts";
import { createCollection } from "../collections";
import { createPlan, plansOf, savePlan } from "../plans";
import { startBuild } from "../versions";
import { dealSplits } from "./deal-splits";
import { planEvidence } from "./evidence";
import { planFlow } from "./plan-flow";

let stop: () => void;
let collection: number;
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Dealt" })).id;
  await deliverAndTakeIn(collection, saveArchive("dealt.zip", await zipBytes(await cocoFiles(20))));
});
afterAll(() => stop());

async function splits(): Promise<Record<string, number>> {
  const counts: Record<string, number> = {};
  for (const { split } of await db().select().from(images).where(eq(images.collectionId, collection)))
    counts[split ?? "none"] = (counts[split ?? "none"] ?? 0) + 1;
  return counts;
}

describe("a plan's dealing", () => {
  it("becomes the stock's own in one act, for the images it keeps, and is taken back as one", async () => {
    const before = await splits();
    const body = planFromYaml(
      "plan: 2\nselect: { where: 'not name like \"*p1.jpg\"' }\nsplit: { stand: none, ratio: { train: 60, val: 20, test: 20 } }\n",
    );
    const { id } = await createPlan(localActor, collection, { name: "Sixty", body });
    const flow = await planFlow(localActor, collection, body);
    const bands = flow.steps.find(({ step }) => step === "split")?.bands ?? [];
    const expected: Partial<Record<string, number>> = {};
    for (const { split, images: n } of bands) if (split) expected[split] = n;
    const done = await dealSplits(localActor, id);
    expect(done).toMatchObject({ images: 19, left: 0, text: "gave 19 images the splits of the plan Sixty" });
    expect(await splits()).toEqual({ ...expected, none: 1 });
    expect((await history(localActor, collection, {})).entries[0]).toMatchObject({ kind: "deal", undoable: true });
    // The same again has nothing to change, and is no part of the history.
    expect(await dealSplits(localActor, id)).toMatchObject({ images: 0 });
    expect((await history(localActor, collection, {})).entries[0]?.id).toBe(done.act);
    // Dealt with what stands, another plan finds the splits that were made.
    const standing = await planFlow(localActor, collection, planFromYaml("plan: 2\nsplit: { stand: all }\n"));
    expect(standing.kept).toEqual({ train: expected["train"], val: expected["val"], test: expected["test"] });
    await undoAct(localActor, done.act);
    expect(await splits()).toEqual(before);
  });
});

describe("a plan that was built", () => {
  it("says what was changed since: the plan, the stock, or nothing", async () => {
    const body = planFromYaml("plan: 2\nsplit: { ratio: { train: 1 } }\npack: { formats: [] }\n");
    const { id } = await createPlan(localActor, collection, { name: "Built", body });
    await untilEnded((await startBuild(localActor, { planId: id })).job);
    const last = async () => (await plansOf(localActor, collection)).find((plan) => plan.id === id)?.lastVersion;
    expect(await last()).toMatchObject({ number: 1, changed: { plan: false, acts: 0 } });
    const tagged = await act(localActor, collection, { ...wholeStock, act: { do: "tag", tag: "seen" } });
    expect(await last()).toMatchObject({ changed: { plan: false, acts: 1 } });
    await undoAct(localActor, tagged.act);
    expect(await last()).toMatchObject({ changed: { acts: 0 } });
    const saved = await savePlan(localActor, id, { body: { ...body, seed: 9 } });
    expect(saved.lastVersion).toMatchObject({ changed: { plan: true } });
    expect((await savePlan(localActor, id, { body })).lastVersion).toMatchObject({ changed: { plan: false } });
  });
});

describe("evidence", () => {
  it("is shown on any image of the stock that is asked for by its name", async () => {
    const plan = planFromYaml("plan: 2\nsplit: { ratio: { train: 1 } }\n");
    for (const named of ["p7.jpg", "images/p7.jpg"])
      expect((await planEvidence(localActor, collection, plan, { named }))?.name).toBe("images/p7.jpg");
    const left = planFromYaml("plan: 2\nselect: { where: 'name like \"*p1.jpg\"' }\nsplit: { ratio: { train: 1 } }\n");
    expect((await planEvidence(localActor, collection, left, { named: "p7.jpg" }))?.split).toBe("none");
    await expect(planEvidence(localActor, collection, plan, { named: "7.jpg" })).rejects.toThrow(/No image in stock/);
  });
  it("shows what is dropped where it would lie, with its reason", async () => {
    // Boxes begin at x = 1 … 5 and 20, of 10 and 15.5 pixels, on pictures of 64: the left half cuts the first off whole.
    const plan = planFromYaml(
      "plan: 2\nvisible: 50%\nsplit: { ratio: { train: 1 } }\nprepare: { crop: { left: 25% }, resize: { mode: stretch, width: 96, height: 96, larger: true } }\n",
    );
    const shown = await planEvidence(localActor, collection, plan, { many: 1 });
    const [sample] = shown?.after ?? [];
    expect(sample?.objects).toHaveLength(1);
    const [ghost] = sample?.ghosts ?? [];
    expect(ghost).toMatchObject({ class: "roll", reason: "cut", left: 0 });
    const [before] = shown?.before.objects ?? [];
    if (before?.shape.kind !== "box" || ghost?.shape.kind !== "box") throw new Error("boxes were expected");
    // 16 pixels are cut off at the left; 48 × 48 become 96 × 96.
    expect(ghost.shape.x).toBeCloseTo((before.shape.x - 16) * 2, 6);
    expect(ghost.shape.width).toBeCloseTo(before.shape.width * 2, 6);
    expect(ghost.shape.y).toBeCloseTo(before.shape.y * 2, 6);
  });
});
