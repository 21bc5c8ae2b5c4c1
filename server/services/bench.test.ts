/** One image step by step: sent twice and done once, taken back one by one, refused where others changed the same. */
import type { Labels } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import { v4 as uuidV4, v7 as uuidV7 } from "uuid";
import { afterAll, beforeAll, expect, it } from "vitest";
import { cocoFiles, deliverAndTakeIn, saveArchive, startWorker, wholeStock, zipBytes } from "../tests/bakery";
import { act, history } from "./acts";
import { localActor, type Actor } from "./actor";
import { addTime, benchImage, imageChanges } from "./bench";
import { classTable } from "./classes";
import { createCollection } from "./collections";
import { sendSteps } from "./send-steps";
import { matchingIds } from "./stock";

let stop: () => void;
let collection: number;
let images: number[];
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Bench" })).id;
  await deliverAndTakeIn(collection, saveArchive("bench.zip", await zipBytes(await cocoFiles(4))));
  images = await matchingIds(localActor, collection, wholeStock);
});
afterAll(() => stop());

const ada: Actor = { ...localActor, id: "ada", name: "Ada" };
const box = (x: number) => ({ kind: "box" as const, x, y: 2, width: 9, height: 8 });
const xs = ({ objects }: Labels) => objects.map(({ shape }) => (shape.kind === "box" ? shape.x : null));

it("a change that is sent again under its key is done once", async () => {
  const [image] = images as [number];
  const { revision, labels } = await benchImage(localActor, collection, image);
  const [first] = labels.objects;
  const steps: Step[] = [{ do: "set-shape", uid: first?.uid as string, shape: box(31) }];
  const entry = { image, revision, steps, key: uuidV4() };
  const sent = await sendSteps(localActor, collection, [entry]);
  expect(await sendSteps(localActor, collection, [entry])).toEqual(sent);
  const now = await benchImage(localActor, collection, image);
  expect([now.revision, xs(now.labels)[0]]).toEqual([revision + 1, 31]);
  await expect(sendSteps(localActor, collection, [entry, { ...entry, image: images[1] as number }])).rejects.toThrow(
    "one image at a time",
  );
});

it("what is taken back on one image is told with what takes it back; an act on many images stays for the others", async () => {
  const image = images[1] as number;
  await act(localActor, collection, { where: "", act: { do: "tag", tag: "seen" } });
  const [tagging] = await imageChanges(localActor, image, {});
  const { revision } = await benchImage(localActor, collection, image);
  const undoing = await sendSteps(localActor, collection, [
    { image, revision, steps: tagging?.inverse ?? [], undoes: tagging?.act },
  ]);
  expect((await benchImage(localActor, collection, image)).labels.tags).toEqual([]);
  expect((await benchImage(localActor, collection, images[2] as number)).labels.tags).toEqual(["seen"]);
  const [newest] = await imageChanges(localActor, image, {});
  expect(newest).toMatchObject({ act: undoing.act, undoes: tagging?.act });
  expect((await imageChanges(localActor, image, { before: undoing.act }))[0]?.act).toBe(tagging?.act);
  const entries = async () => (await history(localActor, collection, {})).entries;
  expect((await entries()).find(({ id }) => id === tagging?.act)?.undone).toBe(false);

  const own = await sendSteps(localActor, collection, [
    { image, revision: revision + 1, steps: [{ do: "add-tag", tag: "mine" }] },
  ]);
  const back = await sendSteps(localActor, collection, [
    { image, revision: revision + 2, steps: [{ do: "remove-tag", tag: "mine" }], undoes: own.act },
  ]);
  expect((await entries()).find(({ id }) => id === own.act)?.undone).toBe(true);
  await sendSteps(localActor, collection, [
    { image, revision: revision + 3, steps: [{ do: "add-tag", tag: "mine" }], undoes: back.act },
  ]);
  expect((await entries()).find(({ id }) => id === own.act)?.undone).toBe(false);
  await expect(
    sendSteps(localActor, collection, [
      { image: images[3] as number, revision: 0, steps: [{ do: "add-tag", tag: "x" }], undoes: own.act },
    ]),
  ).rejects.toMatchObject({ code: "act-missing" });
});

it("a change of what somebody else changed is refused with the labels as they stand", async () => {
  const image = images[2] as number;
  const { revision, labels } = await benchImage(localActor, collection, image);
  const uid = labels.objects[0]?.uid as string;
  const move = (x: number): Step[] => [{ do: "set-shape", uid, shape: box(x) }];
  await sendSteps(ada, collection, [{ image, revision, steps: move(11) }]);
  const refusal = await sendSteps(localActor, collection, [{ image, revision, steps: move(12) }]).catch(
    (error: unknown) => error as { code: string; status: number; details: { revision: number; labels: Labels } },
  );
  expect(refusal).toMatchObject({ code: "changed-since", status: 409, details: { image, revision: revision + 1 } });
  expect("details" in refusal && xs(refusal.details.labels)[0]).toBe(11);
});

it("a class that was merged or removed meanwhile is named, and one that is nowhere is refused", async () => {
  const image = images[3] as number;
  const classes = await classTable(localActor, collection);
  const [from, into] = classes as [(typeof classes)[0], (typeof classes)[0]];
  const { revision } = await benchImage(localActor, collection, image);
  const draw = (id: number): Step[] => [
    { do: "add-object", object: { uid: uuidV7(), class: id, order: 50, shape: box(1) } },
  ];
  await act(localActor, collection, { where: "", act: { do: "merge", from: from.id, into: into.id } });
  const { revision: now } = await benchImage(localActor, collection, image);
  expect(now).toBeGreaterThanOrEqual(revision);
  await expect(sendSteps(localActor, collection, [{ image, revision: now, steps: draw(from.id) }])).rejects.toThrow(
    `${from.name} was merged into ${into.name} meanwhile.`,
  );
  await expect(
    sendSteps(localActor, collection, [{ image, revision: now, steps: draw(999_999) }]),
  ).rejects.toMatchObject({ code: "class-missing" });
  await act(localActor, collection, { where: "", act: { do: "drop-class", class: into.id } });
  const { revision: then } = await benchImage(localActor, collection, image);
  await expect(sendSteps(localActor, collection, [{ image, revision: then, steps: draw(into.id) }])).rejects.toThrow(
    `The class ${into.name} was removed from this collection meanwhile.`,
  );
});

it("time on an image is counted for each person", async () => {
  const [image] = images as [number];
  expect(await addTime(localActor, image, { seconds: 12.5 })).toBe(12.5);
  expect(await addTime(localActor, image, { seconds: 30 })).toBe(42.5);
  expect(await addTime(ada, image, { seconds: 5 })).toBe(5);
  expect((await benchImage(localActor, collection, image)).seconds).toBe(42.5);
});
