import { expect, it } from "vitest";
import { z } from "zod";
import { repeatedJson } from "./repeated-json";

it("gives equal texts the very same value, and refuses what does not fit each time it comes", () => {
  const read = repeatedJson(z.object({ split: z.enum(["train", "val"]).nullable() }));
  const first = read('{"split":"val"}');
  expect(first).toEqual({ split: "val" });
  expect(read(['{"split"', '"val"}'].join(":"))).toBe(first);
  expect(read('{"split":null}')).toEqual({ split: null });
  for (let time = 0; time < 2; time++) expect(() => read('{"split":"lunch"}')).toThrow(z.ZodError);
});
