import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { TakenPaths } from "./taken-paths";
import { Tally } from "./tally";
import { UniqueNames } from "./unique-names";

const name = fc.stringMatching(/^[aAbB]{1,2}(\.(jpg|PNG))?$/);

describe("names", () => {
  it("are unique by stem and case in their folder, end as they did, and are kept where they are free", () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom("train", "val"), name), { maxLength: 40 }), (asked) => {
        const names = new UniqueNames();
        const given = asked.map(([folder, path]) => [folder, path, names.claim(folder, `from/${path}`)] as const);
        const stems = given.map(
          ([folder, , claimed]) => `${folder}/${claimed.replace(/\.(jpg|PNG)$/, "").toLowerCase()}`,
        );
        expect(new Set(stems).size).toBe(stems.length);
        for (const [, path, claimed] of given)
          expect(claimed.endsWith(/\.(jpg|PNG)$/.exec(path)?.[0] ?? "")).toBe(true);
        if (given[0]) expect(given[0][2]).toBe(given[0][1]);
      }),
    );
  });
  it("inside containers never leave the source, and two of one name are told apart by their container", () => {
    const paths = new TakenPaths();
    expect(paths.claim("../../etc/a.jpg", "shards/one.tar")).toBe("etc/a.jpg");
    expect(paths.claim("etc\\a.jpg", "shards/one.tar")).toBe("one/etc/a.jpg");
    expect(paths.claim("./etc/a.jpg", "other/one.tar")).toBe("2/etc/a.jpg");
    expect(paths.claim("etc//a.jpg", "other/one.tar")).toBe("3/etc/a.jpg");
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.stringMatching(/^[a./\\]{1,8}$/), fc.constantFrom("x.tar", "y.tar")), { maxLength: 30 }),
        (asked) => {
          const paths = new TakenPaths();
          const given = asked.map(([path, container]) => paths.claim(path, container));
          expect(new Set(given).size).toBe(given.length);
          for (const path of given) expect(path.split("/")).not.toContain("..");
        },
      ),
    );
  });
});

describe("Tally", () => {
  const shape = { kind: "box" as const, x: 0, y: 0, width: 1, height: 1 };
  it("counts images, states, splits and objects, and an image once a class, by hand", () => {
    const tally = new Tally([{ name: "loaf" }, { name: "roll" }]);
    const object = (name: string) => ({ class: name, shape });
    tally.add({
      state: "labeled",
      split: "train",
      objects: [object("roll"), object("roll"), object("tart")],
      classes: ["roll", "tray"],
    });
    tally.add({ state: "labeled", split: "val", objects: [object("tart")], classes: [] });
    tally.add({ state: "empty", split: "train", objects: [], classes: [] });
    tally.add({ state: "unlabeled", split: null, objects: [], classes: [] });
    expect(tally).toMatchObject({
      images: 4,
      labeled: 2,
      empty: 1,
      unlabeled: 1,
      objects: 4,
      splits: { train: 2, val: 1, test: 0, none: 1 },
    });
    expect(tally.classes()).toEqual([
      { name: "loaf", images: 0, objects: 0 },
      { name: "roll", images: 1, objects: 2 },
      { name: "tart", images: 2, objects: 2 },
      { name: "tray", images: 1, objects: 0 },
    ]);
  });
});
