/** Taking back what was done: by toast, by key, from the history; the bin; and pages that hear of what others do. */
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import { readFileSync } from "node:fs";
import path from "node:path";
import type { Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { violations } from "./accessible";
import { openBrowser } from "./browser";
import { seen } from "./seen";
import { startLarder, type RunningLarder } from "./running-larder";

let larder: RunningLarder;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;
let collection: string;

beforeAll(async () => {
  larder = await startLarder();
  const archive = path.join(larder.home, "few.zip");
  await writeArchive(archive, await manyPictures(14, { width: 160, height: 120 }));
  browser = await openBrowser();
  page = await browser.context.newPage();
  page.setDefaultTimeout(30_000);
  collection = await larder.makeCollection("Mistakes");
  await page.goto(`${collection}/deliveries`);
  await page.getByLabel("Files to take in").setInputFiles(archive);
  await page.getByRole("button", { name: /^Take in/ }).click();
  await seen(page.getByRole("link", { name: "14 in stock" }));
});
afterAll(async () => {
  await browser?.close();
  await larder?.stop();
});

const bar = (name: RegExp, on = page) => on.getByTestId("histograms").getByRole("button", { name });
const cell = (index: number, on = page) => on.getByRole("gridcell").nth(index).getByRole("button");

describe("what was done to images in stock", () => {
  it("is taken back by the toast, and done again", async () => {
    await page.goto(`${collection}/stock`);
    await cell(0).click();
    await cell(3).click({ modifiers: ["Shift"] });
    await seen(page.getByRole("toolbar").getByText("4 images"));
    await page.getByRole("button", { name: "Move to test" }).click();
    await seen(page.getByText("Moved 4 images to test."));
    await seen(bar(/^test ?4$/));
    await page.getByRole("button", { name: "Undo", exact: true }).click();
    await seen(page.getByText("Took back: moved 4 images to test."));
    await seen(bar(/^test ?0$/));
    await page.getByRole("button", { name: "Do again" }).first().click();
    await seen(bar(/^test ?4$/));
  });
  it("is taken back by Ctrl Z, act by act, and done again with Shift; not while one types", async () => {
    await page.keyboard.press("Control+a");
    await seen(page.getByRole("toolbar").getByText("14 images"));
    await page.getByRole("button", { name: "Tag", exact: true }).click();
    await page.getByRole("textbox", { name: "Tag" }).fill("night shift");
    await page.keyboard.press("Control+z");
    await page.getByRole("textbox", { name: "Tag" }).fill("night shift");
    await page.keyboard.press("Enter");
    await seen(page.getByTestId("fact-histograms").getByRole("button", { name: /night shift ?14/ }));
    await seen(bar(/^test ?4$/));
    await page.keyboard.press("Control+z");
    await seen(page.getByText('Took back: tagged 14 images "night shift".'));
    await page
      .getByTestId("fact-histograms")
      .getByRole("button", { name: /night shift/ })
      .waitFor({ state: "detached" });
    await page.keyboard.press("Control+Shift+z");
    await seen(page.getByTestId("fact-histograms").getByRole("button", { name: /night shift ?14/ }));
  });
  it("of all but some is done to these alone, and those that are left out stay as they are", async () => {
    await page.keyboard.press("Escape");
    await page.keyboard.press("Control+a");
    await cell(0).click({ modifiers: ["Control"] });
    await seen(page.getByRole("toolbar").getByText("13 images"));
    await page.getByRole("button", { name: "Move to val" }).click();
    await seen(bar(/^val ?13$/));
    await page.keyboard.press("Control+z");
    await seen(bar(/^val ?0$/));
  });
});

describe("the history", () => {
  it("tells what was done, by whom and of which kind, takes single acts back, and is saved as a table", async () => {
    // The menu of the collection in the masthead.
    await page.getByRole("banner").getByRole("button", { name: "Mistakes" }).click();
    await page.getByRole("menuitem", { name: /History and bin/ }).click();
    await seen(page.getByRole("heading", { name: "History" }));
    await seen(page.getByRole("cell", { name: /took in/ }));
    expect(await violations(page)).toBe("");
    await page.getByLabel("What kind").selectOption({ label: "tagging" });
    await expect.poll(() => page.getByRole("row").count()).toBe(2);
    const download = page.waitForEvent("download");
    await page.getByRole("link", { name: "Save as CSV" }).click();
    const lines = readFileSync(await (await download).path(), "utf8")
      .trim()
      .split("\n");
    expect(lines[0]).toBe("when,who,through,kind,what,images,left,undone");
    expect(lines.slice(1).map((line) => line.split(",").slice(1, 4))).toEqual([["local", "", "tag"]]);
    await page.getByLabel("What kind").selectOption({ label: "all" });
    await page.getByRole("button", { name: 'Undo: did again: tagged 14 images "night shift"' }).click();
    await seen(page.getByText('Took back: tagged 14 images "night shift".'));
    await seen(page.getByRole("row", { name: /taken back/ }));
  });
  it("of one image stands beside it", async () => {
    await page.goto(`${collection}/stock`);
    await cell(1).dblclick();
    const list = page.getByRole("list", { name: "History" });
    await seen(list.getByText("moved to test"));
    await seen(list.getByText("put into stock"));
  });
});

describe("the bin", () => {
  it("takes images out of stock and gives them back, and is emptied once the name is typed", async () => {
    await page.goto(`${collection}/stock`);
    await cell(0).click();
    await cell(1).click({ modifiers: ["Shift"] });
    await page.getByRole("button", { name: "More", exact: true }).click();
    await page.getByRole("menuitem", { name: "Put into the bin" }).click();
    await seen(page.getByRole("link", { name: "12 in stock" }));
    await page.goto(`${collection}/history`);
    await page.getByRole("button", { name: "Take all out" }).click();
    await seen(page.getByRole("link", { name: "14 in stock" }));
    await page.keyboard.press("Control+z");
    await seen(page.getByRole("link", { name: "12 in stock" }));
    await page.getByRole("button", { name: "Empty the bin" }).click();
    const dialog = page.getByRole("dialog");
    expect(await dialog.getByRole("button", { name: "Delete 2 images" }).isDisabled()).toBe(true);
    await dialog.getByLabel("Type Mistakes to go on").fill("Mistakes");
    await dialog.getByRole("button", { name: "Delete 2 images" }).click();
    await page.getByRole("region", { name: "Bin" }).waitFor({ state: "detached" });
    await seen(page.getByRole("link", { name: "12 in stock" }));
  });
});

describe("two tabs", () => {
  it("share one stream of changes, and the second hears when the first is closed", async () => {
    const streams = new Set<string>();
    browser.context.on("request", (request) => {
      if (request.url().endsWith("/api/events")) streams.add(`${request.url()} ${streams.size}`);
    });
    const first = await browser.context.newPage();
    await first.goto(`${collection}/stock`);
    await seen(bar(/^test/, first));
    await page.goto(`${collection}/stock`);
    await seen(bar(/^test/));
    await cell(0, first).click();
    const before = await bar(/^val/).innerText();
    await first.getByRole("button", { name: "Move to val" }).click();
    await expect.poll(() => bar(/^val/).innerText()).not.toBe(before);
    // The page that was there before holds the stream; the new one asked for none, or took over when that one went on.
    expect(streams.size).toBeLessThanOrEqual(1);
    await first.keyboard.press("Control+z");
    await expect.poll(() => bar(/^val/).innerText()).toBe(before);
    await first.close();
    const other = await browser.context.newPage();
    await other.goto(`${collection}/stock`);
    await cell(0, other).click();
    await other.getByRole("button", { name: "Move to val" }).click();
    await expect.poll(() => bar(/^val/).innerText()).not.toBe(before);
    await other.close();
  });
  it("that lost their line catch up once it is back", async () => {
    const before = await bar(/^test/).innerText();
    await browser.context.setOffline(true);
    const id = Number(collection.split("/").at(-1));
    const act = await fetch(`${larder.url}/api/collections/${id}/acts`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ where: "", except: [], act: { do: "move", split: "test" } }),
    });
    expect(act.status).toBe(200);
    expect(await bar(/^test/).innerText()).toBe(before);
    await browser.context.setOffline(false);
    await expect.poll(() => bar(/^test/).innerText(), { timeout: 20_000 }).toMatch(/12$/);
  });
});
