import { describe, expect, it } from "vitest";
import { touches } from "./touched";

describe("what a change touches", () => {
  it("is what its topics say, in its collection", () => {
    expect(touches(["facets", 3, "class=roll"], ["stock"], 3)).toBe(true);
    expect(touches(["facets", 4, ""], ["stock"], 3)).toBe(false);
    expect(touches(["versions", 3], ["stock"], 3)).toBe(false);
    expect(touches(["plans", 3], ["versions"], 3)).toBe(true);
  });
  it("is everything of these topics where no collection is named, and what does not name one itself", () => {
    expect(touches(["facets", 4, ""], ["stock"], null)).toBe(true);
    expect(touches(["delivery", 12], ["deliveries"], 3)).toBe(true);
    expect(touches(["shelves"], ["shelf"], null)).toBe(true);
  });
  it("is never what does not change by itself, nor what nobody knows", () => {
    expect(touches(["still", "sources"], ["stock", "jobs"], null)).toBe(false);
    expect(touches(["something"], ["stock"], null)).toBe(false);
  });
  it("is the jobs alone while work goes on", () => {
    for (const key of ["facets", "collection", "deliveries", "plans", "versions"])
      expect(touches([key, 1], ["jobs", "queue"], 1)).toBe(false);
    expect(touches(["jobs"], ["jobs"], 1)).toBe(true);
  });
});
