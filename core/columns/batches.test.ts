import { expect, it } from "vitest";
import { batchesOf } from "./batches";

it("gives lists of a size and the rest, and none of nothing", () => {
  expect([...batchesOf([1, 2, 3, 4, 5], 2)]).toEqual([[1, 2], [3, 4], [5]]);
  expect([...batchesOf(new Set("abcd"), 4)]).toEqual([["a", "b", "c", "d"]]);
  expect([...batchesOf([], 3)]).toEqual([]);
});
