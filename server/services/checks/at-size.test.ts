/** A stocktake of a stock that the database made, against what the database itself counts. */
import { sql } from "drizzle-orm";
import { beforeAll, expect, it } from "vitest";
import { db } from "../../db/database";
import { numberOf } from "../../db/query";
import { largeStock } from "../../tests/large-stock";
import { localActor } from "../actor";
import { numbersOf } from "./numbers";
import { proofsOf } from "./mend";
import { stocktakeOf } from "./stocktake";

let collection: number;
beforeAll(async () => {
  ({ collection } = await largeStock("Checked at size", 6000, 5));
  // Of every 50th image one box is 2 pixels wide; every 300th came with a total that is no number.
  await db().execute(sql`
    update objects o set width = 2 from images i where i.id = o.image_id and i.collection_id = ${collection} and i.ordinal % 50 = 0 and o.ordinal = 1`);
  await db().execute(sql`
    update images set fields = jsonb_build_object('total', case when ordinal % 300 = 0 then 'on the house' else (ordinal || '.50') end)
    where collection_id = ${collection}`);
});

it("counts what the database counts", async () => {
  const { findings, isTaken } = await stocktakeOf(collection, { where: "" });
  expect(isTaken).toBe(true);
  const count = (code: string) => findings.filter((one) => one.code === code).map((one) => one.count);
  const inStock = sql`objects o join images i on i.id = o.image_id where i.collection_id = ${collection}`;
  const tiny = await numberOf(db(), sql`select count(*) as n from ${inStock} and least(o.width, o.height) < 4`);
  expect(tiny).toBe(120);
  expect(count("box-tiny")).toEqual([tiny]);
  expect(count("field-misfit")).toEqual([20]);
  const { numbers } = await numbersOf(localActor, collection, { where: "", longEdge: 640 });
  const each = numbers?.deliveries.map(({ images, objects }) => [images, objects]);
  expect(each).toEqual([[6000, await numberOf(db(), sql`select count(*) as n from ${inStock}`)]]);
});

it("shows what proves it, from any place on", async () => {
  const { findings } = await stocktakeOf(collection, { where: "" });
  const key = findings.find(({ code }) => code === "box-tiny")?.key ?? "";
  const { finding, proofs } = await proofsOf(localActor, collection, { key, start: 100, limit: 50, where: "" });
  expect(finding.images).toBe(120);
  expect(proofs).toHaveLength(20);
  expect(proofs[0]).toMatchObject({ name: "racks/rack_5050.jpg", objects: [{ width: 2, height: 40 }] });
});
