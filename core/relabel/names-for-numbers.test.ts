import { describe, expect, it } from "vitest";
import { namesForNumbers } from "./names-for-numbers";

describe("namesForNumbers", () => {
  it("gives each number the name at its place", () => {
    expect([...namesForNumbers(["0", "class_2", "Class 1", "class10"], ["roll", "loaf", "tart"])]).toEqual([
      ["0", "roll"],
      ["class_2", "tart"],
      ["Class 1", "loaf"],
    ]);
  });
  it("leaves names alone that are more than a number, and places without a name", () => {
    expect(namesForNumbers(["roll", "class_", "3b", "-1", "1.5", "", "1"], ["roll", ""]).size).toBe(0);
    expect(namesForNumbers(["0"], []).size).toBe(0);
  });
});
