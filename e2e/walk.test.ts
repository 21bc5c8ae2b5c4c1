/** The whole way as a person walks it: from a zip of labeled images to a package that a trainer reads. */
import { breadKinds } from "@larder/demo/breads/bread";
import { writeArchive } from "@larder/demo/archive";
import { cocoDelivery, makeShots, splitOfShot } from "@larder/demo/shifts";
import { frame } from "@larder/demo/scene";
import { trueBreads, type TrueBread } from "@larder/demo/truth";
import { Findings } from "@larder/core/model/finding";
import { ZipTree } from "@larder/server/files/zip-tree";
import { execFile } from "node:child_process";
import { createHash } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";
import type { Page } from "playwright-core";
import sharp from "sharp";
import { parse } from "yaml";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { z } from "zod";
import { violations } from "./accessible";
import { openBrowser } from "./browser";
import { seen } from "./seen";
import { startLarder, type RunningLarder } from "./running-larder";

const shots = makeShots("walk", 700, 24, { faults: false });
const truth = new Map<string, TrueBread[]>(
  shots.map((shot) => [shot.name.replace(".jpg", ""), trueBreads(shot.scene)]),
);
const run = promisify(execFile);
/** What read_coco.py says of a picture. */
const readPicture = z.object({
  split: z.string(),
  name: z.string(),
  declared: z.array(z.number()),
  size: z.array(z.number()),
  mean: z.array(z.number()),
  objects: z.array(
    z.object({
      class: z.string(),
      box: z.tuple([z.number(), z.number(), z.number(), z.number()]),
      filled: z.array(z.number()).nullable(),
    }),
  ),
});
const stretched = { width: 480, height: 360 };
const limits = { archiveBytes: 1e9, entryBytes: 1e9, ratio: 1000 };

let larder: RunningLarder;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;
let archive: string;
let leftOut = "";
const errors: string[] = [];

beforeAll(async () => {
  larder = await startLarder();
  browser = await openBrowser();
  page = await browser.context.newPage();
  page.setDefaultTimeout(30_000);
  page.on("pageerror", (error) => errors.push(error.message));
  archive = path.join(larder.home, "walk.zip");
  await writeArchive(archive, cocoDelivery(shots));
});
afterAll(async () => {
  await browser?.close();
  await larder?.stop();
});

const station = (name: RegExp) =>
  page.getByRole("navigation", { name: "Stations" }).getByRole("link", { name }).click();

async function accessible(name: string): Promise<void> {
  expect(await violations(page), name).toBe("");
}

describe("the whole way", () => {
  it("starts with bare shelves, and a first collection", async () => {
    await page.goto(larder.url);
    await seen(page.getByRole("heading", { name: "The shelves are bare" }));
    await accessible("bare shelves");
    await page.getByRole("button", { name: "Make the first collection" }).click();
    await page.getByLabel("Name").fill("Walk racks");
    await page.getByRole("button", { name: "Make collection" }).click();
    await seen(page.getByText("Drop images and labels here"));
    expect(page.url()).toMatch(/\/c\/\d+\/deliveries$/);
  });

  it("takes a zip whose connection breaks once, and shows what it understood", async () => {
    let broken = 0;
    await page.route("**/api/uploads/*", (route) =>
      route.request().method() === "PATCH" && broken++ === 0 ? route.abort("connectionreset") : route.continue(),
    );
    await page.getByLabel("Files to take in").setInputFiles(archive);
    await seen(page.getByRole("heading", { name: "How it is read" }));
    await page.unroute("**/api/uploads/*");
    expect(broken).toBeGreaterThanOrEqual(2);
    const objects = [...truth.values()].flat().length;
    const sheet = page.locator("main");
    await seen(sheet.getByText("coco", { exact: true }));
    await seen(
      sheet.getByRole("button", {
        name: `keep ${(["train", "val", "test"] as const).map((split) => shots.filter((_, i) => splitOfShot(i) === split).length).join(" / ")}`,
      }),
    );
    expect(await sheet.locator("dl").first().innerText()).toContain(String(objects));
    await expect.poll(() => sheet.locator("table tbody tr").count()).toBe(breadKinds.length);
    await accessible("intake sheet");
  });

  it("leaves an image out at a click, then takes the rest in", async () => {
    const first = page.getByRole("button", { name: /^images\/walk_0001\.jpg/ });
    await seen(page.getByRole("button", { name: "Take in 24 images" }));
    await first.click();
    await seen(page.getByRole("button", { name: "Take in 23 images" }));
    leftOut = "walk_0001";
    await page.getByRole("button", { name: "Take in 23 images" }).click();
    await seen(page.getByRole("link", { name: "all 23 images in stock" }));
    await seen(page.getByRole("link", { name: /walk_0002\.jpg/ }));
    await seen(page.getByRole("link", { name: "23 in stock" }));
  });

  it("shows the stock under filters that keep in the address, and one image large", async () => {
    await station(/in stock/);
    await seen(page.getByRole("gridcell"));
    const expected = [...truth].filter(
      ([name, breads]) => name !== leftOut && breads.some(({ kind }) => kind === "pretzel"),
    );
    await page
      .getByTestId("histograms")
      .getByRole("button", { name: /pretzel/ })
      .click();
    await seen(page.getByTestId("matching").getByText(`${expected.length} of 23 images`, { exact: false }));
    expect(new URL(page.url()).searchParams.get("where")).toBe("has pretzel or class = pretzel");
    await page.reload();
    await seen(page.getByTestId("matching").getByText(`${expected.length} of 23 images`, { exact: false }));
    await accessible("stock");
    // What the histogram wrote is typed otherwise: the same line, and the bars follow it.
    const line = page.getByRole("textbox", { name: "Selection" });
    const type = async (text: string) => {
      await line.click();
      await page.keyboard.press("Control+A");
      await page.keyboard.type(text);
    };
    await type("has pretzel and splitt = train");
    await seen(page.getByText('"splitt" is no field. Did you mean split? (column 17)'));
    await page.keyboard.press("Escape");
    await page.keyboard.press("Enter");
    expect(new URL(page.url()).searchParams.get("where")).toBe("has pretzel or class = pretzel");
    await type("has pre");
    await seen(page.getByRole("option", { name: /pretzel/ }));
    await page.keyboard.press("Enter");
    await page.keyboard.type(" and state = labeled");
    await page.keyboard.press("Escape");
    await page.keyboard.press("Enter");
    await page.waitForURL((url) => url.searchParams.get("where") === "has pretzel and state = labeled");
    await seen(page.getByTestId("matching").getByText(`${expected.length} of 23 images`, { exact: false }));
    const pressed = page.getByTestId("histograms").getByRole("button", { pressed: true });
    expect(await pressed.allInnerTexts()).toEqual([
      expect.stringMatching(/^pretzel/),
      expect.stringMatching(/^labeled/),
    ]);
    await page.getByRole("button", { name: "Save", exact: true }).click();
    await page.getByLabel("Name, one word").fill("pretzels");
    await page.keyboard.press("Enter");
    const chip = page.getByRole("list", { name: "Saved selections" }).getByRole("button", { name: /^pretzels/ });
    await seen(chip.getByText(String(expected.length), { exact: true }));
    await type("objects < 0");
    await page.keyboard.press("Escape");
    await page.keyboard.press("Enter");
    await seen(page.getByText("No image matches"));
    await chip.click();
    await seen(page.getByTestId("matching").getByText(`${expected.length} of 23 images`, { exact: false }));
    await accessible("stock with its line");
    const cell = page.getByRole("gridcell").first().getByRole("button");
    const name = /walk_\d+/.exec(await cell.innerText())?.[0] ?? "";
    await cell.click();
    await seen(page.getByRole("toolbar").getByText("1 image"));
    expect(page.url()).toContain("/stock?");
    await cell.dblclick();
    const list = page.getByRole("list", { name: "Objects" });
    await seen(list);
    expect(await list.getByRole("listitem").count()).toBe(truth.get(name)?.length);
    await accessible("image");
    await page.goBack();
    await seen(page.getByTestId("matching"));
  });

  it("comes back from an image to all the filters it was opened under", async () => {
    const either = [...truth].filter(
      ([name, breads]) => name !== leftOut && breads.some(({ kind }) => kind === "pretzel" || kind === "tart"),
    );
    const words = page.getByTestId("matching").getByText(`${either.length} of 23 images`, { exact: false });
    await page.getByTestId("histograms").getByRole("button", { name: /^tart/ }).click();
    await seen(words);
    await page.getByRole("gridcell").first().getByRole("button").dblclick();
    await seen(page.getByRole("list", { name: "Objects" }));
    await page.keyboard.press("Escape");
    await seen(words);
    expect(new URL(page.url()).searchParams.get("where")).toBe(
      "(has {pretzel, tart} or class in {pretzel, tart}) and state = labeled",
    );
  });

  it("moves what is selected to a split, and undoes it", async () => {
    await page.goto(page.url().replace(/\?.*/, ""));
    const val = page.getByTestId("histograms").getByRole("button", { name: /^val/ });
    const before = (await (await seen(val)).innerText()).replace(/\D/g, "");
    await page.getByRole("gridcell").first().getByRole("button").click();
    await page.keyboard.press("Control+a");
    await seen(page.getByRole("toolbar").getByText("23 images"));
    await page.getByRole("button", { name: "Move to val" }).click();
    await seen(page.getByTestId("histograms").getByRole("button", { name: /^val ?23/ }));
    await page.getByRole("button", { name: "Undo" }).click();
    await seen(page.getByTestId("histograms").getByRole("button", { name: new RegExp(`^val ?${before}$`) }));
  });

  it("has no dead end: classes, checks, go to anything, jobs", async () => {
    await station(/classes/);
    await seen(page.getByRole("row", { name: /pretzel/ }));
    await accessible("classes");
    await station(/check/);
    await seen(page.getByRole("heading", { name: "Balance of the splits" }));
    await accessible("checks");
    await page.keyboard.press("Control+k");
    await page.getByPlaceholder(/collection, delivery/).fill("Walk rac");
    await seen(page.getByRole("option", { name: /Walk racks/ }));
    await page.keyboard.press("Enter");
    await page.waitForURL(/\/stock/);
    await page.getByTestId("jobs").click();
    await seen(page.getByRole("dialog", { name: "Jobs" }));
    await page.keyboard.press("Escape");
  });

  it("plans with the counts right before anything is built, and builds", async () => {
    await station(/plans/);
    await page.getByRole("button", { name: "New plan" }).click();
    await seen(page.getByRole("tab", { name: /Relabel/ }));
    await page.getByRole("tab", { name: /Relabel/ }).click();
    await page.getByRole("checkbox", { name: "loaf" }).click();
    // Classes that become an attribute come into the plan once all of it is said, typed by the keyboard alone.
    const outcome = page.getByRole("main");
    await page.getByRole("button", { name: "Make an attribute of classes" }).click();
    await page.getByLabel("Classes that are joined, 1").focus();
    await page.keyboard.type("roll, croissant");
    await page.keyboard.press("Tab");
    await page.keyboard.type("pastry");
    await page.keyboard.press("Tab");
    expect(await outcome.getByText("pastry", { exact: true }).count()).toBe(0);
    await page.keyboard.type("kind");
    await page.keyboard.press("Tab");
    await seen(outcome.getByText("pastry", { exact: true }).first());
    expect(await page.getByLabel("Values they become, 1").inputValue()).toBe("roll, croissant");
    await page.keyboard.type("round");
    await page.keyboard.press("Enter");
    await seen(page.getByText("One for each: 2 values."));
    await page.getByLabel("Values they become, 1").fill("round, bent");
    await page.keyboard.press("Enter");
    await page.getByText("One for each: 2 values.").waitFor({ state: "detached" });
    await page.getByRole("button", { name: "Remove", exact: true }).click();
    await seen(outcome.getByText("croissant", { exact: true }).first());
    await page.getByRole("tab", { name: /Split/ }).click();
    // A new plan keeps the splits that are there; this one deals all of them anew.
    await page.getByRole("radio", { name: "All anew" }).click();
    await seen(page.getByText("No image keeps a split."));
    for (const [split, share] of [
      ["train", "70"],
      ["val", "20"],
      ["test", "10"],
    ] as const)
      await page.getByLabel(`${split} share`).fill(share);
    await page.getByRole("tab", { name: /Prepare/ }).click();
    await page.getByLabel("Size", { exact: true }).selectOption({ label: "distorted" });
    await page.getByLabel("Width").fill(String(stretched.width));
    await page.getByLabel("Height").fill(String(stretched.height));
    await page.getByRole("tab", { name: /Augment/ }).click();
    await page.getByRole("button", { name: "Add an augmentation" }).click();
    await page.getByRole("textbox", { name: "Find an augmentation" }).fill("flip side");
    await page.keyboard.press("Enter");
    await seen(page.getByRole("list", { name: /Augmentations/ }).getByText("Flip sideways"));
    expect(await page.getByLabel("Copies an image").inputValue()).toBe("1");
    await seen(page.getByText("copy 1: moved"));
    await accessible("augmentations");
    await page.getByRole("tab", { name: /Pack/ }).click();
    // The format that suits outlines and keypoints is chosen already.
    await seen(page.getByRole("checkbox", { name: /^coco:/, checked: true }));
    await page.getByRole("checkbox", { name: "yolo: YOLO text, boxes" }).click();
    const objects = [...truth]
      .filter(([name]) => name !== leftOut)
      .flatMap(([, breads]) => breads)
      .filter(({ kind }) => kind !== "loaf").length;
    await seen(page.getByTestId("flow-relabel-all").getByText(`23 · ${objects}`));
    // 23 images at 70 / 20 / 10 are 16, 5, 2; the copies double the 16.
    await seen(page.getByTestId("flow-pack-train").getByText("32", { exact: false }));
    expect(await page.getByTestId("flow-pack-val").innerText()).toMatch(/^val 5 /);
    expect(await page.getByTestId("flow-pack-test").innerText()).toMatch(/^test 2 /);
    await seen(page.getByText(/lose attributes or flags/));
    await accessible("flow sheet");
    await seen(page.getByText(/^edited/));
    await page.getByRole("button", { name: "Build v1" }).click();
    await page.getByLabel("Note, for whoever trains on it").fill("The first walk.");
    await page.getByRole("dialog").getByRole("button", { name: "Build v1" }).click();
    await seen(page.getByTestId("version-1").getByText("The first walk."));
    await seen(page.getByTestId("download-yolo"));
    await seen(page.getByTestId("download-coco"));
    await accessible("versions");
  });

  it("downloads a package whose every number is the truth's", async () => {
    const [download] = await Promise.all([page.waitForEvent("download"), page.getByTestId("download-yolo").click()]);
    expect(download.suggestedFilename()).toBe("walk-racks-v1-yolo.zip");
    const file = path.join(larder.home, "downloaded.zip");
    await download.saveAs(file);
    const report = new Findings();
    const tree = await ZipTree.open(file, limits, report);
    const entries = (await tree.entries()).map(({ path: name }) => name);
    const description = parse(new TextDecoder().decode(await tree.read("data.yaml"))) as {
      names: string[];
      nc: number;
      path?: string;
    };
    const names = breadKinds.filter((kind) => kind !== "loaf");
    expect(description).toEqual({
      train: "images/train",
      val: "images/val",
      test: "images/test",
      nc: names.length,
      names,
    });
    const images = entries.filter((name) => name.startsWith("images/"));
    expect(
      ["train", "val", "test"].map((split) => images.filter((name) => name.startsWith(`images/${split}/`)).length),
    ).toEqual([32, 5, 2]);
    expect(new Set(images.map((name) => name.replace(/.*\//, "").replace(/(_copy1)?\.jpg$/, "")))).toEqual(
      new Set([...truth.keys()].filter((name) => name !== leftOut)),
    );
    for (const image of images) {
      const base = image.replace(/.*\//, "").replace(".jpg", "");
      const copy = base.endsWith("_copy1");
      const metadata = await sharp(await tree.read(image)).metadata();
      expect([metadata.width, metadata.height]).toEqual([stretched.width, stretched.height]);
      const lines = new TextDecoder()
        .decode(await tree.read(image.replace("images/", "labels/").replace(".jpg", ".txt")))
        .split("\n")
        .filter(Boolean)
        .map((line) => line.split(" ").map(Number));
      const expected = (truth.get(base.replace("_copy1", "")) ?? []).filter(({ kind }) => kind !== "loaf");
      expect(lines).toHaveLength(expected.length);
      expected.forEach(({ kind, box }, nth) => {
        const centre = (box.x + box.width / 2) / frame.width;
        const wanted = [
          names.indexOf(kind as never),
          copy ? 1 - centre : centre,
          (box.y + box.height / 2) / frame.height,
          box.width / frame.width,
          box.height / frame.height,
        ];
        wanted.forEach((value, column) =>
          expect(Math.abs((lines[nth]?.[column] ?? NaN) - value), `${image} line ${nth + 1}`).toBeLessThan(1e-6),
        );
      });
    }
    tree.close();

    // The same bytes by a stable link, in two ranges.
    const link = `${larder.url}${await page.getByTestId("download-yolo").getAttribute("href")}`;
    const whole = readFileSync(file);
    const head = await fetch(link, { headers: { range: "bytes=0-999" } });
    const rest = await fetch(link, { headers: { range: "bytes=1000-", "if-range": head.headers.get("etag") ?? "" } });
    expect([head.status, rest.status, rest.headers.get("content-range")]).toEqual([
      206,
      206,
      `bytes 1000-${whole.length - 1}/${whole.length}`,
    ]);
    expect(
      Buffer.compare(
        Buffer.concat([Buffer.from(await head.arrayBuffer()), Buffer.from(await rest.arrayBuffer())]),
        whole,
      ),
    ).toBe(0);
    const shown = await page.getByTestId("version-1").getByTestId("sha256-yolo").innerText();
    expect(createHash("sha256").update(whole).digest("hex").slice(0, 12)).toBe(/[0-9a-f]{12}/.exec(shown)?.[0]);
  });

  it("is opened whole by OpenCV and Python, unpacked by the line that fetches it", async () => {
    await page.getByRole("button", { name: "More for the package as coco" }).click();
    await page.getByRole("menuitem", { name: "Lines that fetch it" }).click();
    const dialog = page.getByRole("dialog", { name: /^Fetch walk-racks-v1-coco.zip/ });
    await dialog.getByRole("radio", { name: "Python" }).click();
    await accessible("fetch dialog");
    const lines = await dialog.getByLabel("Lines to run").innerText();
    await page.keyboard.press("Escape");
    const cwd = mkdtempSync(path.join(tmpdir(), "larder-fetched-"));
    try {
      await run("python3", ["-c", lines], { cwd });
      const folder = path.join(cwd, "walk-racks-v1-coco");
      expect((await run("python3", [path.join(folder, "check.py")])).stdout).toMatch(/^39 of 39 pictures/);
      expect(readFileSync(path.join(folder, "DATA-CARD.md"), "utf8")).toContain("39 images with");
      const script = fileURLToPath(new URL("./read_coco.py", import.meta.url));
      const { stdout } = await run("/usr/bin/python3", [script, folder]);
      const pictures = z.array(readPicture).parse(JSON.parse(stdout));
      expect(pictures.map(({ split }) => split).sort()).toEqual([
        ...Array<string>(2).fill("test"),
        ...Array<string>(32).fill("train"),
        ...Array<string>(5).fill("val"),
      ]);
      const means = new Map(pictures.map(({ name, mean }) => [name, mean]));
      let outlines = 0;
      for (const { name, size, declared, objects } of pictures) {
        expect([name, size, declared]).toEqual([
          name,
          [stretched.width, stretched.height],
          [stretched.width, stretched.height],
        ]);
        const copy = name.includes("_copy1");
        const breads = (truth.get(name.replace("_copy1", "").replace(".jpg", "")) ?? []).filter(
          ({ kind }) => kind !== "loaf",
        );
        expect(objects.map((object) => object.class)).toEqual(breads.map(({ kind }) => kind));
        objects.forEach(({ box: [x, y, width, height], filled }, nth) => {
          const { box } = breads[nth] as TrueBread;
          const [sx, sy] = [stretched.width / frame.width, stretched.height / frame.height];
          const left = copy ? frame.width - box.x - box.width : box.x;
          for (const [got, wanted] of [
            [x, left * sx],
            [y, box.y * sy],
            [width, box.width * sx],
            [height, box.height * sy],
          ] as const)
            expect(Math.abs(got - wanted), `${name}, object ${nth + 1}`).toBeLessThan(1e-3);
          if (!filled) return;
          // The outline that OpenCV fills lies in its box, to the pixels it rounds to.
          outlines++;
          [x, y, width, height].forEach((value, side) =>
            expect(Math.abs((filled[side] ?? NaN) - value), `${name}, outline ${nth + 1}`).toBeLessThan(3),
          );
        });
        // A mirrored copy has the colours of its picture.
        const own = means.get(name.replace("_copy1", ""));
        means.get(name)?.forEach((level, channel) => expect(Math.abs(level - (own?.[channel] ?? NaN))).toBeLessThan(1));
      }
      expect(outlines).toBeGreaterThan(10);
    } finally {
      rmSync(cwd, { recursive: true, force: true });
    }
  });

  it("shows a version's data card, its scores and what it takes; sends a package out by a link that ends", async () => {
    await page.getByRole("link", { name: "v1", exact: true }).click();
    await seen(page.getByRole("heading", { name: /^v1: Plan 1/ }));
    const card = page.getByRole("article", { name: "Data card" });
    await seen(card.getByText("32 images"));
    expect(await card.locator("img").count()).toBeGreaterThan(4);
    await seen(card.getByRole("heading", { name: "What checks found when it was frozen" }));
    await accessible("version page");

    await page.getByRole("button", { name: "More for the package as yolo" }).click();
    await page.getByRole("menuitem", { name: "A link that ends" }).click();
    await page.getByLabel("It ends after").selectOption("a day");
    await page.getByRole("button", { name: "Make a link" }).click();
    const link = await page.getByLabel("The link").inputValue();
    await accessible("link dialog");
    const fetched = await fetch(link);
    expect(fetched.status).toBe(200);
    const bytes = Buffer.from(await fetched.arrayBuffer());
    const shown = await page.getByTestId("sha256-yolo").innerText();
    expect(createHash("sha256").update(bytes).digest("hex").slice(0, 12)).toBe(/[0-9a-f]{12}/.exec(shown)?.[0]);
    await page.getByRole("button", { name: "End it now" }).click();
    await expect.poll(async () => (await fetch(link)).status).toBe(404);
    await page.keyboard.press("Escape");

    await page.getByRole("button", { name: "Add scores" }).click();
    await page.getByLabel("Model", { exact: true }).fill("small");
    await page.getByLabel("File of scores").setInputFiles({
      name: "results.csv",
      mimeType: "text/csv",
      buffer: Buffer.from("class,precision,recall,mAP50\nall,0.7,0.6,0.65\nroll,0.9,0.8,0.85\n"),
    });
    await seen(page.getByRole("region", { name: "Scores" }).getByText(/mAP 50 0\.65/));
    await page.getByRole("button", { name: "Drop its pictures" }).click();
    await seen(page.getByText("made again when a package needs them"));
    await page.getByRole("button", { name: "Make its pictures again" }).click();
    await seen(page.getByRole("button", { name: "Drop its pictures" }));
    await station(/version/);
    await seen(page.getByRole("region", { name: "Scores of trained models" }).getByText("65.0 %"));
    await page.getByLabel("Of", { exact: true }).selectOption("roll");
    await seen(page.getByRole("region", { name: "Scores of trained models" }).getByText("85.0 %"));
    await accessible("scores");
  });

  it("packs in another format once its losses are understood, and takes that package in again", async () => {
    await page.getByRole("button", { name: "Pack as …" }).first().click();
    await page.getByRole("menuitem", { name: "kitti" }).click();
    const dialog = page.getByRole("dialog", { name: "Pack v1 as kitti" });
    await seen(dialog.getByText(/objects lose attributes or flags/));
    await seen(dialog.getByText(/outlines become boxes around them/));
    await accessible("pack dialog");
    await dialog.getByRole("button", { name: "Pack it" }).click();
    await seen(page.getByTestId("download-kitti"));
    const [download] = await Promise.all([page.waitForEvent("download"), page.getByTestId("download-kitti").click()]);
    const file = path.join(larder.home, "downloaded-kitti.zip");
    await download.saveAs(file);
    const tree = await ZipTree.open(file, limits, new Findings());
    const labels = (await tree.entries()).filter(({ path: name }) => name.startsWith("training/label_2/"));
    expect(labels).toHaveLength(39);
    for (const { path: name } of labels)
      for (const line of new TextDecoder()
        .decode(await tree.read(name))
        .split("\n")
        .filter(Boolean))
        expect(line.split(" ")).toHaveLength(15);
    tree.close();
    await station(/deliver/);
    await page.getByLabel("Files to take in").setInputFiles(file);
    await seen(page.getByRole("heading", { name: "How it is read" }));
    await seen(page.locator("main").getByText("kitti", { exact: true }));
    // All its pictures were made for the package, so all are new: those two splits and the copies.
    await seen(page.getByRole("button", { name: "Take in 39 images" }));
    await station(/deliver/);
    await seen(page.getByRole("heading", { name: "Deliveries" }));
    await page.getByRole("button", { name: /^Put .* aside$/ }).click();
    await page.getByRole("dialog").getByRole("button", { name: /Put/ }).click();
    await expect.poll(() => page.getByRole("button", { name: /^Put .* aside$/ }).count()).toBe(0);
    await station(/version/);
  });

  it("gives the same digest when the same plan is built again", async () => {
    const first = await page.getByTestId("version-1").getByTestId("digest").innerText();
    await station(/plan/);
    await seen(page.getByRole("heading", { name: "Plans" }));
    await page.getByRole("link", { name: "Plan 1" }).click();
    await page.getByRole("button", { name: "Build v2" }).click();
    await page.getByRole("dialog").getByRole("button", { name: "Build v2" }).click();
    await seen(page.getByTestId("version-2").getByText(/the same digest as v1/));
    expect(await page.getByTestId("version-2").getByTestId("digest").innerText()).toBe(first);
  });

  it("undoes the delivery, and deletes the collection once its name is typed", async () => {
    await station(/deliver/);
    await page.getByRole("button", { name: /^Undo / }).click();
    await page.getByRole("button", { name: "Undo delivery" }).click();
    await seen(page.getByRole("link", { name: "0 in stock" }));
    await page.goto(larder.url);
    await page.getByRole("button", { name: "More for Walk racks" }).click();
    await page.getByRole("menuitem", { name: /Rename/ }).click();
    await page.getByRole("textbox", { name: "Name" }).fill("Walked racks");
    await page.getByRole("button", { name: "Rename", exact: true }).click();
    await page.getByRole("button", { name: "More for Walked racks" }).click();
    await page.getByRole("menuitem", { name: /Delete/ }).click();
    const act = page.getByRole("button", { name: "Delete for good" });
    await page.getByLabel("Type the collection's name").fill("Walked rack");
    expect(await act.isDisabled()).toBe(true);
    await page.getByLabel("Type the collection's name").fill("Walked racks");
    await act.click();
    await seen(page.getByRole("heading", { name: "The shelves are bare" }));
    expect(errors).toEqual([]);
  });

  it("is quick and harmless to start again", async () => {
    const began = Date.now();
    expect(await larder.again()).toBe(larder.url);
    expect(Date.now() - began).toBeLessThan(60_000);
  });
});
