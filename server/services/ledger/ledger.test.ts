/** The ledger on a real stock: cells written, refused, undone, columns made and renamed, tables out and in. */
import { attributeKey, type CellValue } from "@larder/core/ledger/column";
import { sql } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { db } from "../../db/database";
import { numberOf } from "../../db/query";
import { cocoFiles, deliverAndTakeIn, saveArchive, startWorker, where, wholeStock, zipBytes } from "../../tests/bakery";
import { history, undoAct } from "../acts";
import { localActor } from "../actor";
import { createCollection } from "../collections";
import { matchingIds } from "../stock";
import { changeColumns, ledgerColumns } from "./columns";
import { ledgerPage } from "./rows";
import { setCells } from "./set-cells";
import { ledgerFile, loadLedgerFile } from "./table-file";

let stop: () => void;
let collection: number;
let ids: number[];
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Ledger" })).id;
  await deliverAndTakeIn(collection, saveArchive("ledger.zip", await zipBytes(await cocoFiles(6))));
  ids = await matchingIds(localActor, collection, wholeStock);
});
afterAll(() => stop());

const bake = attributeKey("bake");
const set = (cells: { nth: number; column: string; value: CellValue; before?: CellValue }[]) =>
  setCells(
    localActor,
    collection,
    cells.map(({ nth, column, value, before = null }) => ({ image: ids[nth] as number, column, value, before })),
  );
const rows = async () => (await ledgerPage(localActor, collection, wholeStock, { start: 0, limit: 10 })).rows;
async function file(): Promise<string> {
  let text = "";
  for await (const piece of ledgerFile(localActor, collection, wholeStock)) text += piece;
  return text;
}
const attribute = { kind: "choice" as const, name: "bake", values: ["pale", "golden"] };

describe("columns", () => {
  it("are made on the spot, and no two have one name", async () => {
    await changeColumns(localActor, collection, { do: "add", attribute });
    expect((await ledgerColumns(localActor, collection)).map(({ key }) => key)).toEqual([
      "split",
      "classes",
      "tags",
      "caption",
      bake,
    ]);
    await expect(changeColumns(localActor, collection, { do: "add", attribute })).rejects.toMatchObject({
      code: "column-taken",
    });
    // What nothing says yet can be asked for already.
    expect(await matchingIds(localActor, collection, where("bake is unset"))).toEqual(ids);
  });
});

describe("cells", () => {
  it("become steps of one act, which is undone as one", async () => {
    const {
      act,
      saved,
      refused,
      rows: after,
    } = await set([
      { nth: 0, column: bake, value: "pale" },
      { nth: 1, column: bake, value: "golden" },
      { nth: 1, column: "tags", value: ["late", "blurred"] },
      { nth: 2, column: "classes", value: ["roll"] },
      { nth: 3, column: "split", value: "val" },
      { nth: 4, column: "caption", value: "Two rolls" },
    ]);
    expect({ saved, refused }).toEqual({ saved: 6, refused: [] });
    expect(after.map(({ attributes }) => attributes["bake"] ?? null).slice(0, 2)).toEqual(["pale", "golden"]);
    expect((await rows()).map(({ classes, split }) => [classes, split]).slice(2, 4)).toEqual([
      [["roll"], null],
      [[], "val"],
    ]);
    expect(await matchingIds(localActor, collection, where("bake = pale or tag = late"))).toEqual(ids.slice(0, 2));
    const { entries } = await history(localActor, collection, {});
    expect(entries[0]).toMatchObject({
      id: act,
      images: 5,
      text: "filled in bake, tags, classes, split and more of 5 images",
    });
    await undoAct(localActor, act as number);
    expect(
      (await rows()).map(({ attributes, tags, classes, split, captions }) => [
        attributes,
        tags,
        classes,
        split,
        captions,
      ]),
    ).toEqual(ids.map(() => [{}, [], [], null, []]));
  });
  it("that somebody changed meanwhile are left and told, the others are saved", async () => {
    await set([{ nth: 0, column: bake, value: "pale" }]);
    const outcome = await set([
      { nth: 0, column: bake, value: "golden" },
      { nth: 1, column: bake, value: "golden" },
    ]);
    expect(outcome).toMatchObject({ saved: 1, refused: [{ image: ids[0], column: bake, now: "pale" }] });
    // Another column of the same image is in nobody's way.
    expect(await set([{ nth: 0, column: "tags", value: ["x"] }])).toMatchObject({ saved: 1, refused: [] });
    expect(await set([{ nth: 0, column: bake, value: "golden", before: "pale" }])).toMatchObject({ saved: 1 });
  });
  it("say nothing where nothing is new, and refuse what does not fit", async () => {
    expect(await set([{ nth: 1, column: bake, value: "golden" }])).toMatchObject({ act: null, saved: 0, refused: [] });
    await expect(set([{ nth: 1, column: bake, value: "burnt" }])).rejects.toMatchObject({ code: "cell-misfit" });
    await expect(set([{ nth: 1, column: "classes", value: ["bun"] }])).rejects.toMatchObject({ code: "cell-misfit" });
    await expect(set([{ nth: 1, column: "attribute:size", value: 1 }])).rejects.toMatchObject({
      code: "column-missing",
    });
    const many = Array.from({ length: 1001 }, (_, n) => ({ image: n + 1, column: bake, value: null, before: null }));
    await expect(setCells(localActor, collection, many)).rejects.toMatchObject({ code: "cells-many" });
  });
});

describe("a column's name", () => {
  it("changes on all images and is taken back with what they say", async () => {
    const outcome = await changeColumns(localActor, collection, { do: "rename", from: "bake", to: "crust" });
    expect(outcome?.text).toBe("renamed the attribute bake to crust (2 images)");
    expect((await ledgerColumns(localActor, collection)).at(-1)).toMatchObject({
      name: "crust",
      schema: { values: ["pale", "golden"] },
    });
    expect((await rows()).slice(0, 2).map(({ attributes }) => attributes)).toEqual([
      { crust: "golden" },
      { crust: "golden" },
    ]);
    await undoAct(localActor, outcome?.act as number);
    expect((await ledgerColumns(localActor, collection)).at(-1)).toMatchObject({ name: "bake" });
    expect((await rows())[0]?.attributes).toEqual({ bake: "golden" });
    await expect(changeColumns(localActor, collection, { do: "rename", from: "size", to: "x" })).rejects.toMatchObject({
      code: "column-missing",
    });
  });
});

describe("a table", () => {
  it("goes out with headers and comes back as it was; unset, no and an empty text are three things", async () => {
    await changeColumns(localActor, collection, { do: "add", attribute: { kind: "yes-no", name: "cut" } });
    await changeColumns(localActor, collection, { do: "add", attribute: { kind: "text", name: "note" } });
    await set([
      { nth: 0, column: attributeKey("cut"), value: false },
      { nth: 0, column: attributeKey("note"), value: "" },
      { nth: 1, column: attributeKey("note"), value: 'a "b", =c' },
      { nth: 2, column: "tags", value: ["one; two", "three"] },
    ]);
    const text = await file();
    expect(text.split("\n").slice(0, 4)).toEqual([
      "name,split,classes,tags,caption,bake,cut,note",
      'images/p0.jpg,,,x,,golden,no,""""""',
      'images/p1.jpg,,,,,golden,,"a ""b"", =c"',
      'images/p2.jpg,,,"""one; two""; three",,,,',
    ]);
    expect(await loadLedgerFile(localActor, collection, { text, write: true })).toEqual({
      rows: 6,
      changes: 0,
      images: 0,
      act: null,
      problems: [],
      troubled: 0,
    });
  });
  it("is looked through before anything is written; what is wrong is named by its line and left out", async () => {
    const text = [
      "name;bake;cut;oven",
      "images/p3.jpg;golden;yes;3",
      "images/p4.jpg;burnt;yes;3",
      "images/p5.jpg;pale;;",
      "images/p5.jpg;golden;;",
      "images/p9.jpg;golden;;",
    ].join("\r\n");
    const before = await file();
    const looked = await loadLedgerFile(localActor, collection, { text, write: false });
    expect(looked).toMatchObject({ rows: 5, changes: 2, images: 1, act: null, troubled: 5 });
    expect(looked.problems).toEqual([
      { line: 1, sentence: 'There is no column "oven" in this ledger; it is left out.' },
      { line: 3, sentence: "bake is one of pale, golden." },
      { line: 4, sentence: '"images/p5.jpg" stands in more than one row: which one holds?' },
      { line: 5, sentence: '"images/p5.jpg" stands in more than one row: which one holds?' },
      { line: 6, sentence: 'There is no image "images/p9.jpg" in stock.' },
    ]);
    expect(await file()).toBe(before);
    const written = await loadLedgerFile(localActor, collection, { text, write: true });
    expect(written.act).not.toBeNull();
    expect((await rows()).slice(3).map(({ attributes }) => attributes)).toEqual([
      { bake: "golden", cut: true },
      {},
      {},
    ]);
    await undoAct(localActor, written.act as number);
    expect(await file()).toBe(before);
  });
  it("without a header, or with one name twice, is refused in a sentence", async () => {
    const load = (text: string) => loadLedgerFile(localActor, collection, { text, write: true });
    await expect(load("images/p3.jpg,golden\n")).rejects.toMatchObject({ code: "table-headless" });
    await expect(load("name,bake,bake\n")).rejects.toMatchObject({ code: "table-header-twice" });
    await expect(load("")).rejects.toMatchObject({ code: "table-empty" });
    expect(
      await numberOf(
        db(),
        sql`select count(*) as n from acts where collection_id = ${collection} and status = 'running'`,
      ),
    ).toBe(0);
  });
});
