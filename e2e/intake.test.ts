/**
 * Taking in as a person does it: from every source, with every decision of the intake sheet, and with what goes wrong
 * on the way.
 */
import { ringsSvg } from "@larder/demo/rings";
import { Findings } from "@larder/core/model/finding";
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import { makeSlips, slipsPdf } from "@larder/demo/slips";
import { ZipTree } from "@larder/server/files/zip-tree";
import { mkdirSync, readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import type { Page } from "playwright-core";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { violations } from "./accessible";
import { openBrowser } from "./browser";
import { lay, plate } from "./small-files";
import { seen } from "./seen";
import { startLarder, type RunningLarder } from "./running-larder";

let larder: RunningLarder;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;
let collection: string;
const errors: string[] = [];

const csv = (lines: string[]) => `image,xmin,ymin,xmax,ymax,class\n${lines.join("\n")}\n`;

const choose = (files: string[]) => page.getByLabel("Files to take in").setInputFiles(files);
const takeIn = (words: RegExp | string) => page.getByRole("button", { name: words }).click();

beforeAll(async () => {
  larder = await startLarder();
  // What the simulated bucket, the server's folder and the shelf hold; without the demo they are empty.
  const coco = (first: number, count: number) =>
    JSON.stringify({
      images: Array.from({ length: count }, (_, n) => ({
        id: n,
        file_name: `p${first + n}.jpg`,
        width: 320,
        height: 240,
      })),
      annotations: Array.from({ length: count }, (_, n) => ({
        id: n,
        image_id: n,
        category_id: 1,
        bbox: [10, 10, 40, 30],
      })),
      categories: [{ id: 1, name: "roll" }],
    });
  const some = async (first: number, count: number) =>
    Object.fromEntries(
      await Promise.all(
        Array.from({ length: count }, async (_, n) => [`p${first + n}.jpg`, await plate(first + n)] as const),
      ),
    );
  lay(path.join(larder.home, "stand-in", "millrace", "night"), { ...(await some(100, 5)), "a.json": coco(100, 5) });
  lay(path.join(larder.home, "incoming", "stall"), { ...(await some(120, 4)), "a.json": coco(120, 4) });
  const sample = path.join(larder.home, "samples", "plates");
  lay(sample, {
    "files/a.json": coco(140, 3),
    "sample.json": JSON.stringify({
      name: "plates",
      title: "Three plates",
      description: "Plain plates.",
      images: 3,
      format: "coco",
      licence: "CC0 1.0",
      citation: "Nobody, 2026.",
    }),
  });
  lay(path.join(sample, "files"), await some(140, 3));
  browser = await openBrowser();
  page = await browser.context.newPage();
  page.setDefaultTimeout(30_000);
  page.on("pageerror", (error) => errors.push(error.message));
  collection = await larder.makeCollection("Counter");
});
afterAll(async () => {
  await browser?.close();
  await larder?.stop();
});

async function accessible(name: string): Promise<void> {
  expect(await violations(page), name).toBe("");
}

describe("files of any mix", () => {
  it("come together: pictures, a table, an archive; then every decision of the sheet is made", async () => {
    const folder = path.join(larder.home, "mix");
    const archive = path.join(folder, "more.zip");
    mkdirSync(folder, { recursive: true });
    await writeArchive(archive, [
      { path: "x1.jpg", bytes: () => plate(20) },
      { path: "x2.jpg", bytes: () => plate(21) },
    ]);
    const files = lay(folder, {
      "p1.jpg": await plate(1),
      "p2.jpg": await plate(2),
      "p3.jpg": await plate(3),
      "broken.jpg": "no picture",
      "labels.csv": csv([
        "p1.jpg,10,10,50,50,roll",
        "p2.jpg,10,10,50,50,Roll",
        "p2.jpg,60,60,90,90,hand",
        "p3.jpg,300,200,360,230,tart",
        "gone.jpg,1,1,5,5,roll",
      ]),
    });
    await page.goto(`${collection}/deliveries`);
    await choose([...files, archive]);
    await seen(page.getByRole("heading", { name: "How it is read" }));
    await seen(page.getByRole("button", { name: "Take in 5 images" }));
    await accessible("sheet with findings");

    await page.getByRole("button", { name: "1 annotation file" }).click();
    await seen(page.getByRole("dialog").getByText("gone.jpg"));
    await page.keyboard.press("Escape");

    // The picture of a finding is shown by the finding.
    await page.getByRole("button", { name: "See box-outside-image" }).click();
    await seen(page.getByRole("button", { name: /^p3\.jpg: 1 object/ }));
    await expect.poll(() => page.getByRole("button", { name: /^p1\.jpg/ }).count()).toBe(0);
    await page.getByRole("button", { name: "of one finding" }).click();

    await page.getByLabel("hand becomes").selectOption({ label: "leave out" });
    await page.getByRole("button", { name: "deal by ratio" }).click();
    await seen(page.getByText("Dealt by class; what is in stock stays where it is."));
    await page.getByRole("button", { name: "edit" }).click();
    await page.getByLabel("Licence").fill("CC BY 4.0");
    await page.getByLabel("Camera position").fill("over the counter");
    await page.getByLabel("Latitude").fill("ninety");
    await page.getByRole("button", { name: "Save" }).click();
    await seen(page.getByText("Decimal degrees, like 47.37."));
    await page.getByLabel("Latitude").fill("47.37");
    await page.getByLabel("Longitude").fill("8.54");
    await page.getByRole("button", { name: "Save" }).click();
    await seen(page.getByText("47.37, 8.54"));

    await takeIn("Take in 5 images");
    await seen(page.getByRole("link", { name: "all 5 images in stock" }));
    await seen(page.getByRole("link", { name: "5 in stock" }));
    const rows = (await (await fetch(`${collection.replace("/c/", "/api/collections/")}/classes`)).json()) as {
      name: string;
      objects: number;
    }[];
    expect(Object.fromEntries(rows.map(({ name, objects }) => [name, objects]))).toEqual({ roll: 1, Roll: 1, tart: 1 });
  });

  it("may be sent again: their bytes are not, and a look-alike class is merged when somebody says so", async () => {
    const folder = path.join(larder.home, "again");
    const files = lay(folder, {
      "p1.jpg": await plate(1),
      "new.jpg": await plate(30),
      "labels.csv": csv(["p1.jpg,12,10,52,50,rolls", "new.jpg,10,10,50,50,rolls"]),
    });
    await page.goto(`${collection}/deliveries`);
    await seen(page.getByRole("link", { name: "5 in stock" }));
    const compared = page.waitForResponse((response) => response.url().endsWith("/known"));
    await choose(files);
    // The field is empty again, so that the same files can be chosen once more.
    await expect
      .poll(() => page.getByLabel("Files to take in").evaluate((field: HTMLInputElement) => field.files?.length))
      .toBe(0);
    expect(await (await compared).json()).toEqual({ known: ["p1.jpg"] });
    await seen(page.getByRole("button", { name: "Take in 1 image" }));
    expect(readdirSync(path.join(larder.home, "uploads", `delivery-${page.url().split("/").at(-1)}`)).sort()).toEqual([
      "labels.csv",
      "new.jpg",
    ]);
    await seen(page.getByText("plural of roll?"));
    await page.getByRole("button", { name: "Merge into roll" }).click();
    await seen(page.getByText("merged into it"));
    await page.getByRole("button", { name: "add labels" }).click();
    await seen(page.getByRole("button", { name: "Take in 1 image, label 1 image" }));
    await page.getByRole("button", { name: /^in stock 1/ }).click();
    await (await seen(page.getByRole("button", { name: /^p1\.jpg/ }))).hover();
    await page.getByRole("button", { name: "Look at p1.jpg" }).click();
    await seen(page.getByRole("dialog").getByText("In stock: labeled"));
    await accessible("side by side");
    await page.keyboard.press("Escape");
    await takeIn(/Take in 1 image/);
    await seen(page.getByText(/1 image, 1 object; 1 in stock got labels/));
    await page.getByRole("button", { name: "Undo delivery" }).click();
    await seen(page.getByRole("dialog").getByText(/1 image of other deliveries get the labels back/));
    await page.getByRole("dialog").getByRole("button", { name: "Undo delivery" }).click();
    await seen(page.getByRole("link", { name: "5 in stock" }));
  });

  it("that are nearly the same are shown side by side and can be left out together", async () => {
    const shot = (n: number, light: number) =>
      sharp(Buffer.from(ringsSvg(n)))
        .linear(light)
        .jpeg()
        .toBuffer();
    const files = lay(path.join(larder.home, "near"), {
      "first.jpg": await shot(1, 1),
      "other.jpg": await shot(2, 1),
      "second.jpg": await shot(1, 1.04),
      "labels.csv": csv(["first.jpg,10,10,50,50,roll", "second.jpg,12,10,52,50,roll"]),
    });
    await page.goto(`${await larder.makeCollection("Two shots")}/deliveries`);
    await choose(files);
    await seen(page.getByText("1 picture is nearly the same as another."));
    await page.getByRole("button", { name: "See near-copy" }).click();
    await (await seen(page.getByRole("button", { name: /^second\.jpg/ }))).hover();
    expect(await page.getByRole("button", { name: /^(first|other)\.jpg/ }).count()).toBe(0);
    await page.getByRole("button", { name: "Look at second.jpg" }).click();
    const dialog = await seen(page.getByRole("dialog"));
    await seen(dialog.getByText("Nearly the same, in this delivery"));
    await seen(dialog.getByText("first.jpg"));
    await expect
      .poll(() =>
        dialog
          .locator("img")
          .evaluateAll((images) => (images as HTMLImageElement[]).map((image) => image.naturalWidth)),
      )
      .toEqual([320, 320]);
    await accessible("near-copies");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: /^Leave all \d+ out$/ }).click();
    await seen(page.getByRole("button", { name: "Take in 2 images" }));
  });

  it("dropped onto a class take it", async () => {
    const bytes = [...(await plate(40))];
    await page.goto(`${collection}/classes`);
    const row = await seen(page.getByRole("row", { name: /tart/ }));
    const transfer = await page.evaluateHandle((data) => {
      const transfer = new DataTransfer();
      transfer.items.add(new File([new Uint8Array(data)], "dropped.jpg", { type: "image/jpeg" }));
      return transfer;
    }, bytes);
    await row.dispatchEvent("drop", { dataTransfer: transfer });
    await seen(page.getByText("All take"));
    await takeIn("Take in 1 image");
    await seen(page.getByRole("link", { name: "6 in stock" }));
  });

  it("are a PDF too: pages become pictures, words come with boxes", async () => {
    const [file] = lay(path.join(larder.home, "pdf"), { "slips.pdf": await slipsPdf(makeSlips(50, 2)) });
    await page.goto(`${await larder.makeCollection("Slips")}/deliveries`);
    await choose([file as string]);
    await seen(page.getByRole("button", { name: "Take in 2 images" }));
    await seen(page.getByLabel("word becomes"));
  });
});

describe("sources beyond the browser", () => {
  let elsewhere: string;
  const from = async (name: string) => {
    await page.goto(`${elsewhere}/deliveries`);
    await page.getByRole("button", { name: "Bring from elsewhere" }).click();
    await page.getByRole("menuitem", { name }).click();
  };
  beforeAll(async () => {
    elsewhere = await larder.makeCollection("Elsewhere");
  });

  it("a folder of the server, scanned again", async () => {
    await from("A folder of the server");
    await page.getByRole("button", { name: "stall" }).click();
    await seen(page.getByText("4 pictures and 1 other file lie here."));
    await accessible("folder dialog");
    await page.getByRole("button", { name: "Read this folder and all below" }).click();
    await takeIn("Take in 4 images");
    await seen(page.getByRole("link", { name: "4 in stock" }));
    lay(path.join(larder.home, "incoming", "stall"), { "late.jpg": await plate(129) });
    await page.getByRole("button", { name: "Scan again" }).click();
    await seen(page.getByText("4 more are as they were"));
    await takeIn("Take in 1 image");
    await seen(page.getByRole("link", { name: "5 in stock" }));
  });

  it("a bucket", async () => {
    await from("A bucket");
    await page.getByRole("button", { name: "night" }).click();
    await seen(page.getByText("5 pictures and 1 other file lie here."));
    await page.getByRole("button", { name: "Read this folder and all below" }).click();
    await takeIn("Take in 5 images");
    await seen(page.getByRole("link", { name: "10 in stock" }));
  });

  it("web addresses, and a private one is refused in a sentence", async () => {
    const { port } = new URL(larder.standIn);
    await from("Web addresses");
    await page.getByLabel("Addresses", { exact: true }).fill("http://10.1.2.3/secret.jpg");
    await page.getByRole("button", { name: "Read these addresses" }).click();
    await seen(page.getByRole("alert").getByText(/private address/));
    await page
      .getByLabel("Addresses", { exact: true })
      .fill(
        `http://127.0.0.1:${port}/pictures/millrace/night/p100.jpg\nhttp://127.0.0.1:${port}/pictures/millrace/night/none.jpg\n`,
      );
    await seen(page.getByText("2 addresses"));
    await page.getByRole("radio", { name: "Keep them as links" }).click();
    await page.getByRole("button", { name: "Read these addresses" }).click();
    // The one is in stock from the bucket already, the other is not there.
    await seen(page.getByRole("button", { name: /^in stock 1/ }));
    await seen(page.getByRole("button", { name: /^not images 1/ }));
  });

  it("another collection, and the shelf of samples", async () => {
    await from("Another collection");
    await page.getByLabel("Collection", { exact: true }).selectOption({ label: "Counter, 6 images" });
    await page.getByLabel("Which images").selectOption({ label: "with the class tart, 2 images" });
    await page.getByRole("button", { name: "Bring 2 images" }).click();
    await takeIn("Take in 2 images");
    await seen(page.getByRole("link", { name: "12 in stock" }));
    // One image chosen in stock goes the same way.
    await page.goto(`${collection}/stock`);
    await (await seen(page.getByRole("gridcell"))).getByRole("button").click();
    await page.getByRole("button", { name: "Bring to a collection" }).click();
    await page.getByRole("menuitem", { name: "Copy to Elsewhere" }).click();
    await seen(page.getByText("chosen images of Counter, with their labels"));
    await from("The shelf of samples");
    await seen(page.getByText("Plain plates."));
    await accessible("shelf of samples");
    await page.getByRole("button", { name: "Take this one: Three plates" }).click();
    await seen(page.getByText("CC0 1.0"));
    await takeIn("Take in 3 images");
    await seen(page.getByRole("link", { name: "15 in stock" }));
  });
});

describe("facts", () => {
  it("filter the stock, and travel into a package", async () => {
    await page.goto(`${collection}/stock`);
    const panel = await seen(page.getByTestId("fact-histograms"));
    await panel.getByRole("button", { name: /CC BY 4\.0/ }).click();
    await seen(page.getByTestId("matching").getByText("5 of 6 images", { exact: false }));
    expect(new URL(page.url()).searchParams.get("where")).toBe('licence = "CC BY 4.0"');
    const id = collection.split("/").at(-1);
    const post = async <T>(address: string, body: unknown) =>
      (await (
        await fetch(`${larder.url}${address}`, {
          method: "POST",
          headers: { "content-type": "application/json" },
          body: JSON.stringify(body),
        })
      ).json()) as T;
    const plan = await post<{ id: number }>(`/api/collections/${id}/plans`, { name: "All" });
    // All but one have a split already, and none of them is test: a new plan would keep it so.
    await fetch(`${larder.url}/api/plans/${plan.id}`, {
      method: "PATCH",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ yaml: "split: {stand: none}" }),
    });
    await post("/api/versions", { planId: plan.id });
    const versions = async () =>
      (await (await fetch(`${larder.url}/api/collections/${id}/versions`)).json()) as {
        status: string;
        failure: string | null;
      }[];
    await expect.poll(async () => (await versions())[0]?.status, { timeout: 60_000 }).not.toBe("building");
    expect((await versions())[0]).toMatchObject({ status: "frozen", failure: null });
    await page.goto(`${collection}/versions`);
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      page.locator('[data-testid^="download-"]').first().click({ timeout: 60_000 }),
    ]);
    const file = path.join(larder.home, "facts.zip");
    await download.saveAs(file);
    const tree = await ZipTree.open(file, { archiveBytes: 1e9, entryBytes: 1e9, ratio: 1000 }, new Findings());
    const readme = new TextDecoder().decode(await tree.read("README.txt"));
    expect(readme).toContain("licence: CC BY 4.0");
    expect(readme).toContain("camera: over the counter");
    expect(readme).toContain("place: 47.37, 8.54");
    tree.close();
  });
});

describe("what goes wrong on the way", () => {
  it("a server that falls while files are sent: what was sent is kept, the rest follows by itself", async () => {
    const collection = await larder.makeCollection("Restarted");
    const archive = path.join(larder.home, "large.zip");
    await writeArchive(archive, await manyPictures(60, { width: 1280, height: 960, seed: 9 }));
    await page.goto(`${collection}/deliveries`);
    let parts = 0;
    await page.route("**/api/uploads/*", async (route) => {
      if (route.request().method() === "PATCH" && parts++ === 0)
        process.kill(Number(readFileSync(path.join(larder.home, "web.pid"), "utf8")), "SIGKILL");
      await route.continue();
    });
    await choose([archive]);
    await seen(page.getByText("the connection broke, trying again"));
    await page.getByRole("button", { name: "Take in 60 images" }).waitFor({ timeout: 90_000 });
    await page.unroute("**/api/uploads/*");
    expect(parts).toBeGreaterThanOrEqual(2);
  });

  it("many loose files, paused and resumed, while one looks at another station; the page stays quick", async () => {
    const collection = await larder.makeCollection("Loose");
    const folder = path.join(larder.home, "loose");
    const files = lay(
      folder,
      Object.fromEntries(
        await Promise.all(
          Array.from(
            { length: 700 },
            async (_, n) =>
              [
                `q${n}.png`,
                await sharp({
                  create: { width: 8, height: 8, channels: 3, background: { r: n % 256, g: Math.floor(n / 3), b: 90 } },
                })
                  .png()
                  .toBuffer(),
              ] as const,
          ),
        ),
      ),
    );
    await page.goto(`${collection}/deliveries`);
    await page.route("**/api/deliveries/*/files", async (route) => {
      await new Promise((resolve) => setTimeout(resolve, 700));
      await route.continue();
    });
    await choose(files);
    await page.getByRole("region", { name: "Upload" }).getByRole("button", { name: "Pause" }).click();
    await seen(page.getByText("paused"));
    await page
      .getByRole("navigation", { name: "Stations" })
      .getByRole("link", { name: /in stock/ })
      .click();
    await page
      .getByRole("navigation", { name: "Stations" })
      .getByRole("link", { name: /deliver/ })
      .click();
    await page.getByRole("region", { name: "Upload" }).getByRole("button", { name: "Go on" }).click();
    await page.getByRole("button", { name: "Take in 700 images" }).waitFor({ timeout: 60_000 });
    await page.unroute("**/api/deliveries/*/files");
  });

  it("a page that is closed while it sends: what arrived is there, and can be completed", async () => {
    const collection = await larder.makeCollection("Closed");
    const files = lay(path.join(larder.home, "closed"), {
      "p1.jpg": await plate(61),
      "p2.jpg": await plate(62),
      "labels.csv": csv(["p1.jpg,10,10,50,50,roll"]),
    });
    const second = await browser.context.newPage();
    await second.goto(`${collection}/deliveries`);
    const cutOff = second.waitForRequest("**/arrived");
    await second.route("**/arrived", (route) => route.abort());
    await second.getByLabel("Files to take in").setInputFiles(files.slice(0, 2));
    await cutOff;
    await second.getByText("the connection broke, trying again").waitFor();
    await second.close({ runBeforeUnload: false });
    await page.goto(`${collection}/deliveries`);
    await seen(page.getByText("on its way"));
    await page.getByRole("link", { name: /^2 files/ }).click();
    await seen(page.getByText("2 files, ", { exact: false }));
    await seen(page.getByText("labels.csv").or(page.getByText("p1.jpg, p2.jpg")));
    await page.getByLabel("Files to add").setInputFiles(files.slice(2));
    await seen(page.getByRole("button", { name: "Take in 2 images" }));
    await seen(page.getByLabel("roll becomes"));
  });

  it("the same files chosen again after that go on with the same delivery, and send only what is missing", async () => {
    const collection = await larder.makeCollection("Again");
    const files = lay(path.join(larder.home, "again"), { "p1.jpg": await plate(71), "p2.jpg": await plate(72) });
    const second = await browser.context.newPage();
    await second.goto(`${collection}/deliveries`);
    const cutOff = second.waitForRequest("**/arrived");
    await second.route("**/arrived", (route) => route.abort());
    await second.getByLabel("Files to take in").setInputFiles(files);
    await cutOff;
    await second.getByText("the connection broke, trying again").waitFor();
    await second.close({ runBeforeUnload: false });
    await page.goto(`${collection}/deliveries`);
    let sent = 0;
    await page.route("**/api/deliveries/*/files", async (route) => {
      if (route.request().method() === "POST") sent++;
      await route.continue();
    });
    await choose(files);
    await seen(page.getByRole("button", { name: "Take in 2 images" }));
    await page.unroute("**/api/deliveries/*/files");
    expect(sent).toBe(0);
    await page.goto(`${collection}/deliveries`);
    await expect.poll(() => page.getByRole("link", { name: /^2 files/ }).count()).toBe(1);
  });

  it("leaves no error behind in any page", () => {
    expect(errors).toEqual([]);
  });
});
