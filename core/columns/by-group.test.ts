import { expect, it } from "vitest";
import { byGroup } from "./by-group";

it("orders items by their groups, and says where each group begins", () => {
  const groups = [2, 0, 2, 1, 0, 4];
  const { order, starts } = byGroup(groups.length, 5, (item) => groups[item] as number);
  expect([...order]).toEqual([1, 4, 3, 0, 2, 5]);
  expect([...starts]).toEqual([0, 2, 3, 5, 5, 6]);
  expect([...byGroup(0, 0, () => 0).starts]).toEqual([0]);
});
