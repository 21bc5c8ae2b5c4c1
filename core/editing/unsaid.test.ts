import { describe, expect, it } from "vitest";
import type { AttributeSchema } from "../model/attribute-schema";
import { unsaidAttributes } from "./unsaid";

const choice = (name: string): AttributeSchema => ({
  kind: "choice",
  name,
  required: true,
  help: "",
  values: ["soft", "hard"],
});
const classes = new Map([
  [1, { name: "loaf", attributes: [choice("crust"), choice("crumb")] }],
  [2, { name: "roll", attributes: [] }],
]);
const unsaid = (objects: Parameters<typeof unsaidAttributes>[0]) => unsaidAttributes(objects, (id) => classes.get(id));

describe("what is not said of objects", () => {
  it("stands once for all objects of a class that lack the same", () => {
    expect(
      unsaid([
        { uid: "a", class: 1, attributes: { crust: "soft" } },
        { uid: "b", class: 2 },
        { uid: "c", class: 1 },
        { uid: "d", class: 1, attributes: { crust: "hard" } },
        { uid: "e", class: 1, attributes: { crust: "hard", crumb: "soft" } },
      ]),
    ).toEqual([
      { className: "loaf", attributes: ["crumb"], uids: ["a", "d"] },
      { className: "loaf", attributes: ["crust", "crumb"], uids: ["c"] },
    ]);
  });
  it("is nothing where nothing has to be said, or the class is gone", () => {
    expect(unsaid([])).toEqual([]);
    expect(
      unsaid([
        { uid: "a", class: 2 },
        { uid: "b", class: 9 },
      ]),
    ).toEqual([]);
  });
});
