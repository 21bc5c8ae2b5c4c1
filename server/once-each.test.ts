import { expect, it } from "vitest";
import { onceEach } from "./once-each";

it("is asked once for each value, also where its answer is nothing, and gives the very same answer again", () => {
  const asked: string[] = [];
  const firstLetter = onceEach((word: string) => {
    asked.push(word);
    return word === "" ? null : { letter: word.slice(0, 1) };
  });
  expect(firstLetter("rye")).toBe(firstLetter("rye"));
  expect([firstLetter(""), firstLetter(""), firstLetter("tart")]).toEqual([null, null, { letter: "t" }]);
  expect(asked).toEqual(["rye", "", "tart"]);
});
