import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { describe, expect, it } from "vitest";
import { checkScript } from "./check-script";
import { cardHtml, cardMarkdown, type DataCard } from "./data-card";

const card: DataCard = {
  title: "Racks v3: Everyday <set>",
  note: "Night *and* day",
  digest: "ab".repeat(32),
  frozen: "2026-11-26",
  images: 1200,
  objects: 3400,
  bySplit: { train: { images: 1000, objects: 3000 }, val: { images: 200, objects: 400 } },
  byClass: { roll: 3000, "tart|pale": 400 },
  sources: [{ name: "Spring", images: 1200, licence: "CC BY 4.0", citation: "", source: "", notes: "" }],
  pictures: { roll: ["data:image/jpeg;base64,AAAA"] },
  plan: "plan: 2\n",
  faults: ["2 images are near-copies of others."],
  training: "Point a trainer at data.yaml.",
  losses: ["12 outlines become boxes around them."],
};

describe("a data card", () => {
  it("says what a data set is, in numbers, with every text as it was written", () => {
    const text = cardMarkdown(card);
    for (const part of [
      "1,200 images with 3,400 objects of 2 classes. Frozen 2026-11-26.",
      "| train | 1,000 | 3,000 |",
    ])
      expect(text).toContain(part);
    expect(text).toContain("tart\\|pale");
    expect(text).toContain("licence: CC BY 4.0");
    const page = cardHtml(card);
    expect(page).toContain("Racks v3: Everyday &lt;set&gt;");
    expect(page).toContain("Night *and* day");
    expect(page).not.toMatch(/<set>|https?:/);
    // Pictures are part of the page; the text names the faults and where to train.
    expect(page).toContain('<img src="data:image/jpeg;base64,AAAA" alt="" height="56">');
    expect(text).not.toContain("base64");
    expect(text).toMatch(/## What checks found\n\n- 2 images are near\\-copies of others\./);
    expect(text).toContain("Point a trainer at data.yaml.");
  });
  it("of what is no version leaves out what it does not have", () => {
    const text = cardMarkdown({ ...card, digest: null, plan: null, faults: [], bySplit: {}, training: null });
    expect(text).not.toMatch(/Digest|What was done|What checks found|Splits|Training with it/);
    expect(text).toContain("## Classes");
  });
});

describe("the check script", () => {
  it("passes on a whole package and fails on one that lacks a picture or has a broken one", () => {
    const folder = mkdtempSync(path.join(tmpdir(), "larder-check-"));
    try {
      const run = () => {
        try {
          return [0, execFileSync("python3", [path.join(folder, "check.py")], { encoding: "utf8" }).trim()];
        } catch (error) {
          return [(error as { status: number }).status, ""];
        }
      };
      writeFileSync(path.join(folder, "check.py"), checkScript(2));
      writeFileSync(path.join(folder, "a.jpg"), Buffer.from([0xff, 0xd8, 0xff, 0xe0]));
      expect(run()[0]).toBe(1);
      writeFileSync(path.join(folder, "b.png"), Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]));
      expect(run()).toEqual([0, "2 of 2 pictures"]);
      writeFileSync(path.join(folder, "b.png"), "no picture");
      expect(run()[0]).toBe(1);
      writeFileSync(path.join(folder, "check.py"), checkScript(null));
      expect(run()[0]).toBe(0);
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
