import { expect, it } from "vitest";
import { asksAttributes } from "./asks-attributes";

it.each([
  ["", false],
  ["split = train and not tag = night", false],
  ['has 2.. "rye roll" (share < 1% and not crowd = yes) or class = tart', false],
  ["weather = rain", true],
  ['split = train and (has any (glazing = "none") or objects = 0)', true],
  // A field that an attribute of the same name goes before.
  ['place = "48.50 9.25"', true],
  ['not field "split" = left', true],
  // No selection at all: whoever reads it says what is wrong.
  ["split = = train", true],
])("%s depends on attributes: %s", (text, asks) => {
  expect(asksAttributes(text)).toBe(asks);
});
