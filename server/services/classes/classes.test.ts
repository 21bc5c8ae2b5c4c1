/** Classes of a real stock: what is said of them, their order, their removal, their list out and in. */
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { untilEnded } from "../../jobs/wait";
import { cocoFiles, deliverAndTakeIn, saveArchive, startWorker, where, wholeStock, zipBytes } from "../../tests/bakery";
import { act, undoAct } from "../acts";
import { localActor } from "../actor";
import { classTable, type ClassRow } from "../classes";
import { createCollection } from "../collections";
import { matchingIds, stockPage } from "../stock";
import { changeClass, orderClasses } from "./change-class";
import { classFile, loadClassList } from "./class-list";
import { renameClass } from "./rename";

let stop: () => void;
let collection: number;
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Classes" })).id;
  await deliverAndTakeIn(collection, saveArchive("classes.zip", await zipBytes(await cocoFiles(9))));
});
afterAll(() => stop());

const rows = () => classTable(localActor, collection);
const named = async (name: string): Promise<ClassRow> => {
  const row = (await rows()).find((one) => one.name === name);
  if (!row) throw new Error(`no class ${name}`);
  return row;
};
const drop = async (id: number) => {
  const outcome = await act(localActor, collection, { act: { do: "drop-class", class: id } });
  if (outcome.job) await untilEnded(outcome.job);
  return outcome;
};

describe("a class", () => {
  it("shows examples from its images and how many deliveries it came with", async () => {
    const { deliveries, examples } = await named("roll");
    expect(deliveries).toBe(1);
    // Nine of them, spread: at most six, each the box that the class has there.
    expect(examples).toHaveLength(6);
    expect(examples[0]).toMatchObject({ y: 2, width: 10, height: 12 });
    expect(new Set(examples.map(({ image }) => image)).size).toBe(6);
  });
  it("gets a code, a colour and a parent; a code that is taken and a circle are refused", async () => {
    const [roll, loaf] = [await named("roll"), await named("loaf")];
    await changeClass(localActor, roll.id, { code: "rx", colour: 30, parent: loaf.id });
    expect(await named("roll")).toMatchObject({ code: "RX", colour: 30, parent: loaf.id });
    await expect(changeClass(localActor, loaf.id, { code: "RX" })).rejects.toMatchObject({
      code: "class-code-taken",
      message: "RX is the code of roll already.",
    });
    await expect(changeClass(localActor, loaf.id, { parent: roll.id })).rejects.toMatchObject({ code: "class-circle" });
    await expect(changeClass(localActor, loaf.id, { parent: loaf.id })).rejects.toMatchObject({ code: "class-circle" });
    await expect(changeClass(localActor, loaf.id, { code: "a b" })).rejects.toThrow(/letters and digits/);
    await changeClass(localActor, roll.id, { parent: null });
  });
  it("takes the place it is given", async () => {
    const names = async () => (await rows()).map(({ name }) => name);
    const ids = (await rows()).map(({ id }) => id);
    const before = await names();
    await orderClasses(localActor, collection, { classes: [...ids].reverse() });
    expect(await names()).toEqual([...before].reverse());
    await orderClasses(localActor, collection, { classes: ids });
    expect(await names()).toEqual(before);
  });
  it("says under which names it was known", async () => {
    const tart = await named("tart");
    const { act: renaming } = await renameClass(localActor, tart.id, { name: "pie" });
    expect(await named("pie")).toMatchObject({ formerly: ["tart"] });
    const outcome = await act(localActor, collection, {
      act: { do: "merge", from: tart.id, into: (await named("loaf")).id },
    });
    expect((await named("loaf")).formerly.sort()).toEqual(["pie", "tart"]);
    await undoAct(localActor, outcome.act);
    await undoAct(localActor, renaming as number);
  });
  it("goes with its labels, and comes back with them", async () => {
    const roll = await named("roll");
    const before = await matchingIds(localActor, collection, where("has roll"));
    expect(before).toHaveLength(9);
    const outcome = await drop(roll.id);
    expect(outcome.text).toBe("removed the class roll with its labels (9 images)");
    expect((await rows()).map(({ name }) => name)).not.toContain("roll");
    const { images } = await stockPage(localActor, collection, wholeStock, { start: 0, limit: 1 });
    expect(images[0]?.objects.map(({ classId }) => classId)).not.toContain(roll.id);
    await undoAct(localActor, outcome.act);
    expect(await named("roll")).toMatchObject({ objects: 9, code: "RX" });
    expect(await matchingIds(localActor, collection, where("has roll"))).toEqual(before);
  });
  it("that nothing has goes, too, and its removal is undone", async () => {
    await loadClassList(localActor, collection, { text: "bun\n", fileName: "classes.txt" });
    const bun = await named("bun");
    const outcome = await drop(bun.id);
    expect((await rows()).map(({ name }) => name)).not.toContain("bun");
    await undoAct(localActor, outcome.act);
    expect(await named("bun")).toMatchObject({ objects: 0 });
  });
});

describe("the list as a file", () => {
  it("brings everything to another collection", async () => {
    const [roll, bun] = [await named("roll"), await named("bun")];
    await changeClass(localActor, bun.id, { parent: roll.id, colour: 20 });
    const text = await classFile(localActor, collection, { as: "json" });
    const other = (await createCollection(localActor, { name: "Other classes" })).id;
    const { added } = await loadClassList(localActor, other, { text, fileName: "classes.json" });
    expect(added).toBe(4);
    expect(await classFile(localActor, other, { as: "json" })).toBe(text);
    // Once more it changes nothing.
    expect(await loadClassList(localActor, other, { text, fileName: "classes.json" })).toMatchObject({ added: 0 });
    expect(await classFile(localActor, other, { as: "csv" })).toContain("bun,");
  });
  it("may exchange codes, but not give one to two", async () => {
    const [roll, loaf] = [await named("roll"), await named("loaf")];
    const swap = `name,code\nroll,${loaf.code}\nloaf,${roll.code}\n`;
    await loadClassList(localActor, collection, { text: swap, fileName: "codes.csv" });
    expect([(await named("roll")).code, (await named("loaf")).code]).toEqual([loaf.code, roll.code]);
    const twice = "name,code\nroll,ZZ\nloaf,ZZ\n";
    await expect(loadClassList(localActor, collection, { text: twice, fileName: "c.csv" })).rejects.toMatchObject({
      code: "class-code-taken",
    });
    const taken = `name,code\nroll,${(await named("tart")).code}\n`;
    await expect(loadClassList(localActor, collection, { text: taken, fileName: "c.csv" })).rejects.toMatchObject({
      code: "class-code-taken",
    });
    expect((await named("roll")).code).toBe(loaf.code);
  });
});
