/** What a person sees when something is not as it should be, and while long work goes on. */
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import { writeFileSync } from "node:fs";
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
let archive: string;

beforeAll(async () => {
  larder = await startLarder();
  archive = path.join(larder.home, "long.zip");
  await writeArchive(archive, await manyPictures(320, { width: 1280, height: 960 }));
  browser = await openBrowser();
  page = await browser.context.newPage();
  page.setDefaultTimeout(30_000);
  collection = await larder.makeCollection("Trouble");
});
afterAll(async () => {
  await browser?.close();
  await larder?.stop();
});

async function bring(name: string, bytes: Uint8Array | string): Promise<void> {
  const file = path.join(larder.home, name);
  writeFileSync(file, bytes);
  await page.goto(`${collection}/deliveries`);
  await page.getByLabel("Files to take in").setInputFiles(file);
}

describe("bad input", () => {
  it("that is no zip is said in a sentence, and can be put aside", async () => {
    await bring("letter.zip", "Dear baker, this is not a zip.");
    await seen(page.getByRole("alert").getByText(/It is not a zip, or it was cut off/));
    await page.getByRole("button", { name: "Put aside" }).click();
    await page.getByRole("dialog").getByRole("button", { name: "Put aside" }).click();
    await page.waitForURL(/\/deliveries$/);
    await seen(page.getByRole("link", { name: "0 deliveries" }));
    await page.getByRole("table").waitFor({ state: "detached" });
  });

  it("that is empty is refused at its start, and the page says so", async () => {
    await bring("nothing.zip", "");
    await seen(page.getByRole("alert").getByText(/not a zip/));
  });

  it("in an address leads to a page that says where to go", async () => {
    await page.goto(`${larder.url}/nowhere/at/all`);
    await seen(page.getByRole("heading", { name: "There is nothing at this address" }));
    await page.goto(`${larder.url}/c/shelf/deliveries`);
    await seen(page.getByRole("heading", { name: "There is nothing at this address" }));
    await page.goto(`${larder.url}/c/9999/plans/77`);
    await seen(page.getByRole("heading", { name: "It is not here" }));
    await seen(page.getByRole("alert").getByText("There is no plan 77. It may have been deleted."));
  });

  it("from another site is refused, and odd numbers too", async () => {
    const foreign = await fetch(`${larder.url}/api/collections`, {
      method: "POST",
      headers: { "content-type": "application/json", origin: "http://elsewhere.example" },
      body: JSON.stringify({ name: "X" }),
    });
    expect([foreign.status, ((await foreign.json()) as { code: string }).code]).toEqual([403, "origin-foreign"]);
    const odd = await fetch(`${larder.url}/api/collections/abc`);
    expect(odd.status).toBe(400);
    const missing = await fetch(`${larder.url}/packages/12345/x.zip`);
    expect([missing.status, ((await missing.json()) as { message: string }).message]).toEqual([
      404,
      "There is no package 12345. It may have been deleted.",
    ]);
  });
});

describe("long work", () => {
  it("shows its progress, also after a reload, and leaves stock as it was when it is stopped", async () => {
    await page.goto(`${collection}/deliveries`);
    await page.getByLabel("Files to take in").setInputFiles(archive);
    // Paused before it is taken in, so that the work is not done before somebody has looked, however quick the machine.
    await page
      .getByRole("status")
      .filter({ hasText: "Looking into the pictures" })
      .getByRole("button", { name: "Pause" })
      .click();
    await page.getByRole("button", { name: "Take in 320 images" }).click();
    const job = page.getByRole("dialog", { name: "Jobs" }).getByRole("listitem").filter({ hasText: "Taking in Long" });
    await page.getByTestId("jobs").click();
    await job.getByRole("button", { name: "Pause" }).click();
    await seen(job.getByText(/^Paused/));
    await page.reload();
    await seen(page.getByRole("status").getByText(/· paused/));
    await page.getByTestId("jobs").click();
    await seen(job.getByRole("progressbar"));
    await job.getByRole("button", { name: "Stop" }).click();
    await seen(page.getByRole("alert").getByText("Taking in was stopped; stock is as it was before."));
    await seen(page.getByRole("link", { name: "0 in stock" }));
  });

  it("goes on when the page is closed, and the shelf shows what came", async () => {
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Take in 320 images" }).click();
    await seen(page.getByRole("status").filter({ hasText: /Taking in|Taking over/ }));
    await page.close();
    page = await browser.context.newPage();
    page.setDefaultTimeout(60_000);
    await page.goto(collection);
    await seen(page.getByRole("link", { name: "320 in stock" }));
  });

  it("scrolls through a long grid by mouse and by keyboard", async () => {
    await page.goto(`${collection}/stock?size=110`);
    await page.getByRole("gridcell").first().getByRole("button").click();
    await page.keyboard.press("ArrowRight");
    await page.keyboard.press("ArrowDown");
    await page.waitForFunction(() => Number((document.activeElement as HTMLElement | null)?.dataset["index"]) > 5);
    await page.mouse.wheel(0, 100_000);
    await seen(page.getByText("many_000319.jpg"));
    expect(await page.getByRole("row").count()).toBeLessThan(30);
    // Where one is stays in sight.
    expect(await page.getByRole("navigation", { name: "Stations" }).isVisible()).toBe(true);
    expect((await page.getByRole("navigation", { name: "Stations" }).boundingBox())?.y).toBeLessThan(60);
  });

  it("is one stop of the keyboard, extends with Shift, and is come back to where an image was opened", async () => {
    await page.goto(`${collection}/stock?size=110`);
    const at = () => page.evaluate(() => (document.activeElement as HTMLElement | null)?.dataset["index"] ?? null);
    await page.getByRole("gridcell").nth(3).getByRole("button").click();
    await page.keyboard.press("Shift+ArrowRight");
    await page.keyboard.press("Shift+ArrowRight");
    await seen(page.getByRole("toolbar", { name: "What is selected" }).getByText("3 images"));
    // From the grid the keyboard comes to what is done with the selection, and back again.
    await page.keyboard.press("Tab");
    await seen(page.getByRole("button", { name: "to all 320" }).and(page.locator(":focus")));
    await page.keyboard.press("Shift+Tab");
    expect(await at()).toBe("5");
    await page.keyboard.press("Escape");
    await page.keyboard.press("End");
    await page.waitForFunction(() => (document.activeElement as HTMLElement | null)?.dataset["index"] === "319");
    await page.keyboard.press("Home");
    await page.waitForFunction(() => (document.activeElement as HTMLElement | null)?.dataset["index"] === "0");
    await page.keyboard.press("End");
    await page.waitForFunction(() => (document.activeElement as HTMLElement | null)?.dataset["index"] === "319");
    await page.keyboard.press("Enter");
    await page.waitForURL(/\/stock\/\d+/);
    await seen(page.getByText("many_000319.jpg").first());
    await page.keyboard.press("Escape");
    await page.waitForURL(/\/stock\?/);
    await page.waitForFunction(() => (document.activeElement as HTMLElement | null)?.dataset["index"] === "319");
  });

  it("is not begun where a split would stay empty, and a text that is no plan is refused in place", async () => {
    await page.goto(`${collection}/plans`);
    await page.getByRole("button", { name: "New plan" }).click();
    await page.getByRole("tab", { name: /Select/ }).click();
    await page.getByRole("checkbox", { name: "Labeled images", exact: true }).click();
    await seen(page.getByRole("alert").getByText(/would hold no image/));
    expect(await page.getByRole("button", { name: "Build v1" }).isDisabled()).toBe(true);
    await page.getByRole("heading", { name: "Select" }).click();
    await page.keyboard.press("Control+z");
    await seen(page.getByTestId("flow-pack-train").getByText("256"));
    await page.getByRole("button", { name: "YAML" }).click();
    const text = page.getByRole("textbox", { name: "Plan as YAML" });
    await text.fill("plan: 2\nsplit: {ratio: {train: much, val: 1, test: 1}}");
    await seen(page.getByRole("alert").getByText(/Line 2, split\.ratio\.train: "much" is no number/));
    await seen(page.getByTestId("flow-pack-train").getByText("256"));
    await text.fill("plan: 2\nsplit: {ratio: {train: 50, val: 50, test: 0}}");
    await seen(page.getByTestId("flow-pack-val").getByText("160"));
    // The sheet's own controls are written into the text.
    await page.getByRole("tab", { name: /Split/ }).click();
    await page.getByLabel("train share").fill("75");
    await page.getByLabel("val share").fill("25");
    await page.waitForFunction(() => document.querySelector(".cm-content")?.textContent?.includes("train: 75"));
    await page.getByRole("button", { name: "History" }).click();
    await seen(
      page
        .getByRole("dialog")
        .getByText(/until .* changed it/)
        .first(),
    );
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "YAML" }).click();
  });

  it("is readable in the dark", async () => {
    await page.getByRole("button", { name: "Light or dark" }).click();
    expect(await page.evaluate(() => document.documentElement.dataset["theme"])).toBe("dark");
    await page.reload();
    await seen(page.getByTestId("flow-pack-val"));
    expect(await page.evaluate(() => document.documentElement.dataset["theme"])).toBe("dark");
    expect(await violations(page, ["color-contrast"])).toBe("");
  });
});
