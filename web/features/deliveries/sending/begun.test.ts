// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from "vitest";
import { begunDelivery, fingerprintOf, forgetBegun, rememberBegun } from "./begun";

const entry = (path: string, content = "x", lastModified = 1) => ({
  path,
  size: content.length,
  file: new File([content], path, { lastModified }),
});

describe("a sending that goes on after a reload", () => {
  beforeEach(() => localStorage.clear());
  it("is known by its files, in whatever order they come", () => {
    const [a, b] = [entry("a.jpg"), entry("b.jpg", "yy")];
    expect(fingerprintOf([a, b])).toBe(fingerprintOf([b, a]));
    const others = [[a], [a, entry("b.jpg", "y")], [a, entry("b.jpg", "yy", 2)], [a, entry("c.jpg", "yy")]];
    for (const other of others) expect(fingerprintOf(other)).not.toBe(fingerprintOf([a, b]));
  });
  it("remembers its delivery, each collection its own, until it is forgotten", () => {
    rememberBegun(1, "f", 7);
    expect([begunDelivery(1, "f"), begunDelivery(2, "f"), begunDelivery(1, "g")]).toEqual([7, null, null]);
    forgetBegun(1, "f");
    expect(begunDelivery(1, "f")).toBeNull();
  });
});
