// @vitest-environment jsdom
import { beforeEach, expect, it } from "vitest";
import { movePlace, rememberPlace, takePlace } from "./place";

beforeEach(() => sessionStorage.clear());

it("comes back to where an image was opened, once, and only under the same filters", () => {
  rememberPlace(1, "class=roll", 40);
  expect([takePlace(1, "class=tart"), takePlace(2, "class=roll")]).toEqual([null, null]);
  expect([takePlace(1, "class=roll"), takePlace(1, "class=roll")]).toEqual([40, null]);
});

it("follows the steps to the next image and back, and never lies before the first", () => {
  rememberPlace(1, "", 1);
  movePlace(1, 1);
  expect(takePlace(1, "")).toBe(2);
  rememberPlace(1, "", 0);
  movePlace(1, -1);
  expect(takePlace(1, "")).toBe(0);
  movePlace(1, 1);
  expect(takePlace(1, "")).toBeNull();
});

it("is none where what is kept cannot be read", () => {
  sessionStorage.setItem("larder-place-1", "{");
  expect(takePlace(1, "")).toBeNull();
});
