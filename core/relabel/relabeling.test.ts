import { describe, expect, it } from "vitest";
import { Findings } from "../model/finding";
import type { LabeledObject } from "../model/item";
import { planSchema } from "../plans/plan";
import { classInfosAfter, Relabeling, selectableObject } from "./relabeling";

const size = { width: 100, height: 100 };
const object = (name: string, more: Partial<LabeledObject> = {}): LabeledObject => ({
  class: name,
  shape: { kind: "box", x: 0, y: 0, width: 20, height: 20 },
  ...more,
});
const relabeling = (relabel: object, dropped: string[] = []) =>
  new Relabeling(planSchema.parse({ relabel }).relabel, { image: [], object: ["bake"] }, new Set(dropped));
const names = (relabel: object, objects: LabeledObject[], classes: string[] = []) => {
  const after = relabeling(relabel).labels({ objects, classes }, size);
  return [after.objects.map((entry) => entry.class), after.classes];
};

describe("Relabeling", () => {
  it("leaves out by old names, renames, and keeps by new ones", () => {
    const relabel = { leaveOut: ["tart"], rename: { Roll: "roll", tart: "cake" }, keep: ["roll"] };
    expect(names(relabel, [object("Roll"), object("tart"), object("loaf")], ["Roll", "roll", "loaf"])).toEqual([
      ["roll"],
      ["roll"],
    ]);
  });
  it("makes classes of an attribute and joins them back, with its value", () => {
    const baked = [
      object("loaf", { attributes: { bake: "dark" } }),
      object("loaf"),
      object("roll", { attributes: { bake: "pale" } }),
    ];
    const splitBy = [{ attribute: "bake", classes: ["loaf"] }];
    expect(names({ splitBy }, baked)[0]).toEqual(["loaf-dark", "loaf", "roll"]);
    const join = [{ classes: ["roll-dark", "roll-pale"], into: "roll", attribute: "bake", values: ["dark", "pale"] }];
    const joined = relabeling({ join }).labels(
      { objects: [object("roll-pale"), object("roll-dark")], classes: [] },
      size,
    );
    expect(joined.objects.map((entry) => [entry.class, entry.attributes])).toEqual([
      ["roll", { bake: "pale" }],
      ["roll", { bake: "dark" }],
    ]);
  });
  it("keeps the objects that its conditions mean", () => {
    const small = object("roll", { shape: { kind: "box", x: 0, y: 0, width: 2, height: 2 } });
    expect(
      names({ objects: "share >= 1% and not crowd = yes" }, [
        small,
        object("roll"),
        object("roll", { crowd: true }),
      ])[0],
    ).toEqual(["roll"]);
  });
  it("brings shapes down the ladder, says what is lost, and never goes up", () => {
    const polygon: LabeledObject = object("roll", { shape: { kind: "polygon", parts: [[[0, 0, 10, 0, 10, 20]]] } });
    const report = new Findings();
    const boxes = relabeling({ shapes: "boxes" }).labels(
      { objects: [polygon, object("loaf")], classes: [] },
      size,
      report,
      "a.jpg",
    );
    expect(boxes.objects.map(({ shape }) => shape)).toEqual([
      { kind: "box", x: 0, y: 0, width: 10, height: 20 },
      { kind: "box", x: 0, y: 0, width: 20, height: 20 },
    ]);
    expect(report.list().map(({ code, count }) => [code, count])).toEqual([["loss-polygon", 1]]);
    expect(names({ shapes: "image-classes" }, [polygon, object("loaf")], ["tray"])).toEqual([
      [],
      ["tray", "roll", "loaf"],
    ]);
    expect(
      relabeling({ shapes: "polygons" }).labels({ objects: [object("loaf")], classes: [] }, size).objects[0]?.shape
        .kind,
    ).toBe("box");
  });
  it("counts an object as what its labels become", () => {
    const relabel = { leaveOut: ["tart"], splitBy: [{ attribute: "bake" }], objects: "share < 50%", shapes: "boxes" };
    const objects = [
      object("loaf", { attributes: { bake: true } }),
      object("tart"),
      object("roll", { shape: { kind: "box", x: 0, y: 0, width: 90, height: 90 } }),
      object("rim", { shape: { kind: "line", points: [0, 0, 9, 9] } }),
      object("roll"),
    ];
    const counted = objects.flatMap((entry) => relabeling(relabel).counted(selectableObject(entry), size)?.name ?? []);
    expect(counted).toEqual(names(relabel, objects)[0]);
    expect(counted).toEqual(["loaf-yes", "roll"]);
  });
  it("lists classes in the old order, what was made of one in its place", () => {
    const made = relabeling({ splitBy: [{ attribute: "bake", classes: ["loaf"] }], rename: { bap: "roll" } }, ["gone"]);
    for (const bake of ["pale", "dark"]) made.counted(selectableObject(object("loaf", { attributes: { bake } })), size);
    const list = made.classList(["gone", "loaf", "roll", "bap"], new Set(["loaf-dark", "roll"]));
    expect(list).toEqual(["loaf-dark", "loaf-pale", "roll"]);
    const infos = [{ name: "loaf" }, { name: "roll" }, { name: "bap", keypoints: ["a"] }];
    expect(classInfosAfter(list, infos, made)).toEqual([
      { name: "loaf-dark" },
      { name: "loaf-pale" },
      { name: "roll", keypoints: ["a"] },
    ]);
  });
});
