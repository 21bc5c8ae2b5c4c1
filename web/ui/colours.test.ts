import { expect, it } from "vitest";
import { classColour, classFill } from "./colours";

it("gives thirty-six classes a colour each, and areas beyond the twelfth a pattern", () => {
  const numbers = Array.from({ length: 36 }, (_, n) => n);
  expect(new Set(numbers.map(classColour)).size).toBe(36);
  expect(new Set(numbers.map(classFill)).size).toBe(36);
  expect(numbers.filter((n) => classFill(n).includes("gradient"))).toEqual(numbers.slice(12));
  expect(classColour(36)).toBe(classColour(0));
});
