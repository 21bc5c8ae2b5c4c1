/** The stock as cut-outs and as a ledger, by mouse and by keyboard alone, with two people at one image. */
import { writeArchive } from "@larder/demo/archive";
import { readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import type { Page } from "playwright-core";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { violations } from "./accessible";
import { openBrowser } from "./browser";
import { seen } from "./seen";
import { holdRequests } from "./hold-requests";
import { startLarder, type RunningLarder } from "./running-larder";

let larder: RunningLarder;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;
let collection: string;
const errors: string[] = [];

const green = { r: 20, g: 200, b: 40 };
const blue = { r: 20, g: 40, b: 220 };
const images = 12;
/** Said to be green, and blue. */
const wrong = 5;

/** Pictures with a green and a blue square each, one of them with two blue ones. */
async function squares(): Promise<Record<string, string | Uint8Array>> {
  const files: Record<string, string | Uint8Array> = {};
  const [rows, annotations] = [[] as object[], [] as object[]];
  for (let n = 0; n < images; n++) {
    const background = { r: 90 + n, g: 90, b: 90 };
    const square = (left: number, colour: typeof green) => ({
      input: { create: { width: 40, height: 40, channels: 3 as const, background: colour } },
      left,
      top: 20,
    });
    files[`images/p${String(n).padStart(2, "0")}.png`] = await sharp({
      create: { width: 240, height: 80, channels: 3, background },
    })
      .composite([square(20, n === wrong ? blue : green), square(140, blue)])
      .png()
      .toBuffer();
    rows.push({ id: n, width: 240, height: 80, file_name: `p${String(n).padStart(2, "0")}.png` });
    annotations.push(
      { id: 2 * n, image_id: n, category_id: 1, bbox: [20, 20, 40, 40] },
      { id: 2 * n + 1, image_id: n, category_id: 2, bbox: [140, 20, 40, 40] },
    );
  }
  const categories = [
    { id: 1, name: "green" },
    { id: 2, name: "blue" },
  ];
  files["annotations.json"] = JSON.stringify({ images: rows, annotations, categories });
  return files;
}

type Row = { name: string; attributes: Record<string, unknown>; tags: string[] };
const rows = async (): Promise<Row[]> => {
  const response = await page.request.get(`${larder.url}/api/collections/${collection}/ledger?start=0&limit=100`);
  return ((await response.json()) as { rows: Row[] }).rows;
};

beforeAll(async () => {
  larder = await startLarder();
  browser = await openBrowser();
  await browser.context.grantPermissions(["clipboard-read", "clipboard-write"]);
  page = await browser.context.newPage();
  page.setDefaultTimeout(30_000);
  page.on("pageerror", (error) => errors.push(error.message));
  const archive = path.join(larder.home, "squares.zip");
  await writeArchive(
    archive,
    Object.entries(await squares()).map(([name, content]) => ({
      path: name,
      bytes: () => Promise.resolve(Buffer.from(content)),
    })),
  );
  await page.goto(larder.url);
  await page.getByRole("button", { name: "Make the first collection" }).click();
  await page.getByLabel("Name").fill("Squares");
  await page.getByRole("button", { name: "Make collection" }).click();
  await page.getByLabel("Files to take in").setInputFiles(archive);
  await page.getByRole("button", { name: `Take in ${images} images` }).click();
  await seen(page.getByRole("link", { name: `all ${images} images in stock` }));
  collection = /\/c\/(\d+)/.exec(page.url())?.[1] ?? "";
});
afterAll(async () => {
  await browser?.close();
  await larder?.stop();
});

describe("the grid", () => {
  it("shows every picture, with the shapes of a class drawn on it", async () => {
    await page.goto(`${larder.url}/c/${collection}/stock`);
    const first = page.getByRole("grid", { name: "Images in stock" }).getByRole("gridcell").first();
    const thumbnail = first.locator("[data-thumbnail]");
    /** What is seen at a place of the picture, which lies in the middle of its cell, as wide as that. */
    const colourAt = async (x: number, y: number) => {
      const { data, info } = await sharp(await thumbnail.screenshot())
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true });
      const scale = info.width / 240;
      const [column, row] = [Math.round(x * scale), Math.round((info.height - 80 * scale) / 2 + y * scale)];
      return [...data.subarray((row * info.width + column) * 3, (row * info.width + column) * 3 + 3)];
    };
    const isGreen = ([red, green, blue]: number[]) => (green ?? 0) > 150 && (red ?? 0) < 90 && (blue ?? 0) < 110;
    await expect.poll(async () => isGreen(await colourAt(40, 40))).toBe(true);
    expect(isGreen(await colourAt(100, 40))).toBe(false);
    // One path a class: both boxes lie where they were drawn.
    const paths = await first
      .locator("svg path[vector-effect]")
      .evaluateAll((drawn) => drawn.map((path) => path.getAttribute("d")));
    expect(paths).toEqual(["M20 20h40v40h-40Z", "M140 20h40v40h-40Z"]);
    expect(await violations(page)).toBe("");
  });
});

describe("cut-outs", () => {
  const cell = (nth: number) => page.getByRole("grid", { name: "Cut-outs" }).getByRole("gridcell").nth(nth);
  const picked = () => page.getByRole("gridcell", { selected: true }).count();
  it("put what stands out first, once it is learned what pictures look like", async () => {
    await page.goto(`${larder.url}/c/${collection}/stock`);
    await page.getByRole("button", { name: "Cut-outs" }).click();
    await seen(page.getByRole("combobox", { name: "Cut-outs of" }));
    await page.getByRole("combobox").selectOption({ label: `green (${images})` });
    await seen(cell(0).getByRole("button", { name: "p05.png" }));
    expect(await page.getByRole("gridcell").count()).toBe(images);
    await expect
      .poll(() =>
        cell(0)
          .locator("img")
          .evaluate((image: HTMLImageElement) => image.naturalWidth),
      )
      .toBe(52);
    expect(await violations(page)).toBe("");
  });
  it("are picked by click, shift and a frame drawn over them", async () => {
    await cell(2).click();
    await cell(4).click({ modifiers: ["Shift"] });
    expect(await picked()).toBe(3);
    await page.keyboard.press("Escape");
    expect(await picked()).toBe(0);
    const [from, to] = [await cell(1).boundingBox(), await cell(3).boundingBox()];
    await page.mouse.move((from?.x ?? 0) + 30, (from?.y ?? 0) + 30);
    await page.mouse.down();
    await page.mouse.move((to?.x ?? 0) + 30, (to?.y ?? 0) + 40, { steps: 4 });
    await page.mouse.up();
    expect(await picked()).toBe(3);
    await seen(page.getByRole("toolbar", { name: "What is picked" }).getByText("3 objects"));
    await page.keyboard.press("Escape");
  });
  it("that are wrong get their class, by the keyboard alone, and back", async () => {
    await cell(0).getByRole("button").focus();
    await page.keyboard.press("Space");
    const menu = page.getByRole("button", { name: "Give another class" });
    await menu.focus();
    await page.keyboard.press("Enter");
    await seen(page.getByRole("menuitem", { name: "blue" }));
    await page.keyboard.press("b");
    // What is typed finds its class a moment later.
    await seen(page.locator("[role=menuitem][data-highlighted]").getByText("blue"));
    await page.keyboard.press("Enter");
    await seen(page.getByText("Made 1 object into blue (on 1 image)."));
    await expect.poll(() => page.getByRole("gridcell").count()).toBe(images - 1);
    await page.keyboard.press("Control+z");
    await expect.poll(() => page.getByRole("gridcell").count()).toBe(images);
  });
  it("open their picture with Enter", async () => {
    await cell(0).getByRole("button", { name: "p05.png" }).focus();
    await page.keyboard.press("Enter");
    await seen(page.getByRole("heading", { name: /p05\.png/ }));
    await page.goBack();
    await seen(cell(0));
  });
  it("of an attribute's values stand side by side, and go from one to the other", async () => {
    const post = (address: string, body: unknown, method: "post" | "put" = "post") =>
      page.request[method](`${larder.url}/api/${address}`, { data: body });
    const classes = (await (await page.request.get(`${larder.url}/api/collections/${collection}/classes`)).json()) as {
      id: number;
      name: string;
    }[];
    const of = classes.find(({ name }) => name === "green")?.id ?? 0;
    await post(`classes/${of}/attributes`, [{ name: "crust", kind: "choice", values: ["pale", "dark"] }], "put");
    for (const [where, value] of [
      ["name like p0*", "pale"],
      ["not name like p0*", "dark"],
    ])
      await post(`collections/${collection}/acts`, {
        where,
        act: { do: "set-object-attribute", objects: "green", name: "crust", value },
      });
    await page.goto(`${larder.url}/c/${collection}/stock?show=cutouts&by=size`);
    await page.getByRole("combobox", { name: "Cut-outs of" }).selectOption({ label: "crust: pale (10)" });
    await page.getByRole("button", { name: "Beside the others" }).click();
    const column = (value: string) => page.getByRole("region", { name: `crust: ${value}` });
    await expect.poll(() => column("pale").locator("img").count()).toBe(10);
    await expect.poll(() => column("dark").locator("img").count()).toBe(2);
    expect(await violations(page)).toBe("");
    // What is picked is of one column: another begins anew.
    await column("dark").getByRole("gridcell").first().click();
    await column("pale").getByRole("gridcell").nth(1).click();
    await column("pale")
      .getByRole("gridcell")
      .nth(2)
      .click({ modifiers: ["Shift"] });
    expect(await picked()).toBe(2);
    await page.getByRole("button", { name: "Set crust" }).click();
    await page.getByRole("menuitem", { name: "dark" }).click();
    await expect.poll(() => column("dark").getByRole("gridcell").count()).toBe(4);
    await seen(column("pale").getByRole("heading", { name: "crust: pale 8" }));
    await page.keyboard.press("Control+z");
    await expect.poll(() => column("pale").getByRole("gridcell").count()).toBe(10);
    await page.getByRole("button", { name: "This one alone" }).click();
    await expect.poll(() => page.getByRole("grid").count()).toBe(1);
    // The blue one pulls the middle of the pale ones away from all others, which are greener, like the dark ones.
    await page.getByRole("button", { name: "Order: largest" }).click();
    await page.getByRole("menuitem", { name: "nearer another value first" }).click();
    await seen(cell(9).getByRole("button", { name: "p05.png" }));
  });
  it("of pictures: the look-alikes of one, and what is most unlike its class", async () => {
    await page.goto(`${larder.url}/c/${collection}/stock?sort=-unlike`);
    await seen(page.getByRole("gridcell").first().getByText("p05.png"));
    await page.getByRole("gridcell").first().click();
    await page.getByRole("toolbar").getByRole("button", { name: "More" }).click();
    await page.getByRole("menuitem", { name: "Show what looks alike" }).click();
    await seen(page.getByRole("button", { name: "Order: most alike first" }));
    await seen(page.getByRole("gridcell").first().getByText("p05.png"));
    expect(new URL(page.url()).searchParams.getAll("like")).toHaveLength(1);
  });
});

describe("tiles", () => {
  const split = async () => {
    const response = await page.request.get(`${larder.url}/api/collections/${collection}/stock/facets?`);
    return ((await response.json()) as { split: Record<string, number> }).split;
  };
  it("that are picked are dragged to a split together, one that is not goes alone", async () => {
    await page.goto(`${larder.url}/c/${collection}/stock`);
    const tile = (nth: number) => page.getByRole("grid").getByRole("gridcell").nth(nth);
    await seen(tile(2).getByText("p02.png"));
    await tile(0).click();
    await tile(2).click({ modifiers: ["Shift"] });
    await expect.poll(() => page.getByRole("gridcell", { selected: true }).count()).toBe(3);
    const drag = async (nth: number, onto: RegExp) => {
      const box = await tile(nth).boundingBox();
      await page.mouse.move((box?.x ?? 0) + 40, (box?.y ?? 0) + 40);
      await page.mouse.down();
      await page.mouse.move((box?.x ?? 0) + 60, (box?.y ?? 0) + 30, { steps: 3 });
      const place = await seen(page.locator("[aria-hidden=true]").getByText(onto));
      const target = await place.boundingBox();
      // Let go of once the place shows that it would take it.
      let nudge = 0;
      await expect
        .poll(async () => {
          nudge = 1 - nudge;
          await page.mouse.move((target?.x ?? 0) + 5 + nudge, (target?.y ?? 0) + 5, { steps: 2 });
          return page.locator("[aria-hidden=true] > .border-act.bg-act").getByText(onto).count();
        })
        .toBe(1);
      await page.mouse.up();
    };
    await drag(1, /^val$/);
    await seen(page.getByText("Moved 3 images to val."));
    expect((await split())["val"]).toBe(3);
    await drag(4, /^blue$/);
    await seen(page.getByText("Said of 1 image that they are blue."));
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await expect.poll(async () => (await split())["val"] ?? 0).toBe(0);
    await page.keyboard.press("Escape");
  });
  it("are packed as they are, put into the bin, and back from it", async () => {
    await page.goto(`${larder.url}/c/${collection}/stock`);
    const tile = (nth: number) => page.getByRole("grid").getByRole("gridcell").nth(nth);
    await seen(tile(0).getByText("p00.png"));
    await tile(0).click();
    const more = page.getByRole("toolbar").getByRole("button", { name: "More" });
    await more.click();
    await page.getByRole("menuitem", { name: "Pack them now" }).click();
    await page.getByLabel("Format").selectOption("jsonl");
    await page.getByRole("button", { name: "Pack as jsonl" }).click();
    await page.getByRole("button", { name: "See the package" }).click();
    const packed = page.getByRole("region", { name: "Packed selections" });
    await seen(packed.getByTestId("download-jsonl"));
    const [download] = await Promise.all([page.waitForEvent("download"), packed.getByTestId("download-jsonl").click()]);
    expect(download.suggestedFilename()).toMatch(/^squares-selection-\d+-jsonl\.zip$/);
    await packed.getByRole("button", { name: /Remove/ }).click();
    await expect.poll(() => packed.count()).toBe(0);
    await page.goto(`${larder.url}/c/${collection}/stock`);
    await seen(tile(0).getByText("p00.png"));
    await tile(0).click();
    await more.click();
    await page.getByRole("menuitem", { name: "Put into the bin" }).click();
    await page.getByRole("link", { name: "1 in the bin" }).click();
    await seen(page.getByRole("heading", { name: "Bin" }));
    await page.getByRole("button", { name: /p00\.png/ }).click();
    expect(await violations(page)).toBe("");
    await page.getByRole("button", { name: "Put back into stock" }).click();
    await seen(page.getByRole("heading", { name: "The bin is empty" }));
    await page.goto(`${larder.url}/c/${collection}/stock`);
    await seen(page.getByTestId("matching").getByText(`${images} of ${images} images`));
  });
});

describe("classes", () => {
  const names = () => page.locator("tbody tr td:nth-child(2) a").allInnerTexts();
  it("take another place by the keyboard, and merge where one is dropped on another", async () => {
    await page.goto(`${larder.url}/c/${collection}/classes`);
    await seen(page.getByRole("button", { name: "Move blue to another place" }));
    expect(await violations(page)).toBe("");
    expect(await names()).toEqual(["green", "blue"]);
    await page.getByRole("button", { name: "Move blue to another place" }).focus();
    await page.keyboard.press("Space");
    await seen(page.getByText("blue is over blue."));
    await page.keyboard.press("ArrowUp");
    await seen(page.getByText("blue is over green."));
    await page.keyboard.press("Space");
    await expect.poll(names).toEqual(["blue", "green"]);
    await page.reload();
    await expect.poll(names).toEqual(["blue", "green"]);
    const [from, to] = [
      await page.getByRole("link", { name: "green", exact: true }).boundingBox(),
      await page.getByRole("link", { name: "blue", exact: true }).boundingBox(),
    ];
    await page.mouse.move((from?.x ?? 0) + 20, (from?.y ?? 0) + 8);
    await page.mouse.down();
    await page.mouse.move((to?.x ?? 0) + 20, (to?.y ?? 0) + 8, { steps: 6 });
    await page.mouse.up();
    await seen(page.getByRole("dialog", { name: "Merge green" }));
    await seen(page.getByText(/12 labels on 12 images become blue/));
    await page.getByRole("button", { name: "Merge into blue" }).click();
    await expect.poll(names).toEqual(["blue"]);
    await page.keyboard.press("Control+z");
    await expect.poll(names).toEqual(["blue", "green"]);
  });
  it("get a code, and one that is taken is refused where it is typed", async () => {
    await page.getByRole("button", { name: "Change green" }).click();
    await page.getByRole("menuitem", { name: "Code, colour, parent" }).click();
    await page.getByRole("textbox", { name: "Code" }).fill("G7");
    await page.getByLabel("Colour 30").check({ force: true });
    await page.getByRole("button", { name: "Save" }).click();
    await seen(page.getByRole("cell", { name: "G7" }));
    await page.getByRole("button", { name: "Change blue" }).click();
    await page.getByRole("menuitem", { name: "Code, colour, parent" }).click();
    await page.getByRole("textbox", { name: "Code" }).fill("G7");
    await page.getByRole("button", { name: "Save" }).click();
    await seen(page.getByText("G7 is the code of green already."));
    await page.keyboard.press("Escape");
  });
  it("are saved as a list with everything", async () => {
    await page.getByRole("button", { name: "Save the list" }).click();
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      page.getByRole("menuitem", { name: "With everything (json)" }).click(),
    ]);
    const saved = path.join(larder.home, "classes.json");
    await download.saveAs(saved);
    const { classes } = JSON.parse(readFileSync(saved, "utf8")) as { classes: { name: string; code: string }[] };
    expect(classes).toMatchObject([{ name: "blue" }, { name: "green", code: "G7", colour: 29 }]);
  });
});

describe("a class", () => {
  it("says what may be said of its objects", async () => {
    await page.getByRole("button", { name: "Change blue" }).click();
    await page.getByRole("menuitem", { name: "Attributes" }).click();
    const dialog = page.getByRole("dialog", { name: "Attributes of blue" });
    await seen(dialog.getByText("Nothing is asked about its objects yet."));
    await dialog.getByRole("button", { name: "New attribute" }).click();
    await page.getByRole("textbox", { name: "Name" }).fill("glaze");
    await page.getByRole("textbox", { name: /Values/ }).fill("none\nsugar");
    await page.getByRole("combobox", { name: "Where nobody says it, it is" }).selectOption("none");
    await page.getByRole("checkbox", { name: "It has to be said" }).check();
    await page.getByRole("textbox", { name: "Help for who says it" }).fill("On top of it.");
    expect(await violations(page)).toBe("");
    await page.getByRole("button", { name: "Add the attribute" }).click();
    await seen(dialog.getByText("one of none, sugar; has to be said"));
    // What is changed keeps all else that was said of it; a usual value that is none any more is refused.
    await dialog.getByRole("button", { name: "Change glaze" }).click();
    await page.getByRole("textbox", { name: /Values/ }).fill("sugar\negg");
    await seen(page.getByRole("alert").getByText("glaze is one of sugar, egg."));
    expect(await page.getByRole("button", { name: "Save" }).isEnabled()).toBe(false);
    await page.getByRole("textbox", { name: /Values/ }).fill("none\nsugar\negg");
    await page.getByRole("button", { name: "Save" }).click();
    await seen(dialog.getByText("one of none, sugar, egg; has to be said"));
    const rowsOf = await page.request.get(`${larder.url}/api/collections/${collection}/classes`);
    const kept = ((await rowsOf.json()) as { name: string; attributes: object[] }[]).find(
      ({ name }) => name === "blue",
    );
    expect(kept?.attributes).toEqual([
      {
        ...{ kind: "choice", name: "glaze", values: ["none", "sugar", "egg"] },
        ...{ default: "none", required: true, help: "On top of it." },
      },
    ]);
    expect(await violations(page)).toBe("");
    await dialog.getByRole("button", { name: "Take off glaze" }).click();
    await seen(dialog.getByText("Nothing is asked about its objects yet."));
    await dialog.getByRole("button", { name: "Done" }).click();
  });
  it("is split by what its objects measure, and put together again", async () => {
    await page.getByRole("button", { name: "Change blue" }).click();
    await page.getByRole("menuitem", { name: "Split off a new class" }).click();
    const dialog = page.getByRole("dialog", { name: "Split off from blue" });
    await dialog.getByLabel("The new class").fill("right");
    await dialog.getByLabel("Takes these objects").fill("blue (x > 0.5");
    await dialog.getByRole("button", { name: "Split it off" }).click();
    // What cannot be read is said, and nothing is done.
    await seen(page.getByRole("status").or(page.locator("[data-sonner-toast]")).first());
    await page.getByRole("button", { name: "Change blue" }).click();
    await page.getByRole("menuitem", { name: "Split off a new class" }).click();
    await dialog.getByLabel("The new class").fill("right");
    await dialog.getByLabel("Takes these objects").fill("blue (x > 0.5)");
    expect(await violations(page)).toBe("");
    await dialog.getByRole("button", { name: "Split it off" }).click();
    await seen(page.getByText(`Made blue (x > 0.5) into right (on ${images} images).`));
    await page.keyboard.press("Control+z");
    await seen(page.getByText(/^Took back/).first());
  });
});

describe("a collection", () => {
  it("is told of in words, with its licence and how it is cited", async () => {
    await page.goto(larder.url);
    const ask = async () => {
      await page.getByRole("button", { name: "More for Squares" }).click();
      await page.getByRole("menuitem", { name: "Describe" }).click();
    };
    await ask();
    const dialog = page.getByRole("dialog", { name: "What Squares is" });
    await dialog.getByLabel("Description (Markdown)").fill("Squares, *green* and blue.");
    await dialog.getByLabel("Licence").fill("CC0-1.0");
    await dialog.getByLabel("Citation").fill("Made up, 2026");
    expect(await violations(page)).toBe("");
    await dialog.getByRole("button", { name: "Save" }).click();
    await dialog.waitFor({ state: "detached" });
    await page.reload();
    await ask();
    expect(await dialog.getByLabel("Description (Markdown)").inputValue()).toBe("Squares, *green* and blue.");
    expect(await dialog.getByLabel("Licence").inputValue()).toBe("CC0-1.0");
    await dialog.getByRole("button", { name: "Cancel" }).click();
  });
});

describe("the ledger", () => {
  const grid = () => page.getByRole("grid", { name: "Ledger" });
  const cell = (row: number, column: number) => page.locator(`#cell-${row}-${column}`);
  const bake = async () => (await rows()).map(({ attributes }) => attributes["bake"] ?? null);
  it("gets a column made on the spot", async () => {
    await page.goto(`${larder.url}/c/${collection}/stock`);
    await page.getByRole("button", { name: "Ledger" }).click();
    await page.getByRole("button", { name: "New column" }).click();
    await page.getByLabel("Name").fill("bake");
    await page.getByLabel("Values, one a line").fill("pale\ngolden\ndark");
    await page.getByRole("button", { name: "Add the column" }).click();
    await seen(page.getByRole("columnheader", { name: /bake/ }));
    // Whoever types sees it closed; until then it has the keys.
    await page.getByRole("dialog").waitFor({ state: "hidden" });
    expect(await violations(page)).toBe("");
  });
  it("is typed in by the keyboard alone: words are completed, each cell is saved", async () => {
    await grid().focus();
    await page.keyboard.press("Control+Home");
    await page.keyboard.press("End");
    await page.keyboard.type("g");
    await page.keyboard.press("Enter");
    await page.keyboard.type("dark");
    await page.keyboard.press("Enter");
    await page.keyboard.type("burnt");
    await page.keyboard.press("Enter");
    await expect.poll(bake).toEqual(["golden", "dark", ...Array<null>(images - 2).fill(null)]);
    // What does not fit stays where it was typed, is marked, and is not saved.
    await page.keyboard.press("ArrowUp");
    await seen(page.getByText("Not saved: bake is one of pale, golden, dark."));
    expect(await cell(2, 4).innerText()).toContain("burnt");
    await page.keyboard.type("p");
    await page.keyboard.press("Tab");
    await expect.poll(bake).toEqual(["golden", "dark", "pale", ...Array<null>(images - 3).fill(null)]);
    // Tab went on to the first cell of the next row.
    expect(await grid().getAttribute("aria-activedescendant")).toBe("cell-3-0");
  });
  it("copies and pastes blocks with the real clipboard, fills down and clears", async () => {
    await cell(0, 4).click();
    await page.keyboard.press("Shift+ArrowDown");
    await page.keyboard.press("Control+c");
    expect(await page.evaluate(() => navigator.clipboard.readText())).toBe("golden\ndark");
    await cell(4, 4).click();
    await page.keyboard.press("Control+v");
    await expect.poll(async () => (await bake()).slice(3, 7)).toEqual([null, "golden", "dark", null]);
    await page.evaluate(() => navigator.clipboard.writeText('"a\tb"\tpale\nlate\tdark\n'));
    await cell(7, 3).click();
    await page.keyboard.press("Control+v");
    await expect.poll(async () => (await bake()).slice(7, 9)).toEqual(["pale", "dark"]);
    await cell(5, 4).click();
    await page.keyboard.press("Shift+ArrowDown");
    await page.keyboard.press("Control+d");
    await expect.poll(async () => (await bake()).slice(5, 7)).toEqual(["dark", "dark"]);
    await page.keyboard.press("Delete");
    await expect.poll(async () => (await bake()).slice(5, 7)).toEqual([null, null]);
    await page.keyboard.press("Control+z");
    await expect.poll(async () => (await bake()).slice(5, 7)).toEqual(["dark", "dark"]);
  });
  it("refuses a block that is larger than the room for it", async () => {
    const before = await bake();
    await page.evaluate(() => navigator.clipboard.writeText("pale\npale\npale\n"));
    await cell(images - 2, 4).click();
    await page.keyboard.press("Control+v");
    await seen(page.getByText("The block is 3 × 1 cells, and from here there is room for 2 × 1. Nothing was pasted."));
    expect(await bake()).toEqual(before);
  });
  it("takes what is typed into a row that is not there yet", async () => {
    expect((await bake())[0]).toBe("golden");
    const letGo = await holdRequests(page, /\/ledger\?/, "GET");
    await page.reload();
    await seen(page.getByRole("rowheader", { name: "…" }));
    await cell(0, 4).click();
    await page.waitForFunction(() => document.activeElement?.getAttribute("aria-activedescendant") === "cell-0-4");
    await page.keyboard.type("pale");
    await page.keyboard.press("Enter");
    letGo();
    await expect.poll(async () => (await bake())[0]).toBe("pale");
    await cell(0, 4).click();
    await page.keyboard.type("golden");
    await page.keyboard.press("Enter");
    await expect.poll(async () => (await bake())[0]).toBe("golden");
  });
  it("tells the second of two people that a cell says something else by now", async () => {
    const other = await browser.context.newPage();
    // What the other page does is not told to this one, by neither's stream: it types into what it saw before.
    await browser.context.route("**/api/events**", (route) => route.abort());
    await page.reload();
    await seen(cell(0, 4));
    await other.goto(`${larder.url}/c/${collection}/stock?show=ledger`);
    await other.locator("#cell-0-4").click();
    // A page that was only just opened takes the click, and its keys a moment later.
    await other.waitForFunction(() => document.activeElement?.getAttribute("aria-activedescendant") === "cell-0-4");
    await other.keyboard.type("dark");
    await other.keyboard.press("Enter");
    await expect.poll(async () => (await bake())[0]).toBe("dark");
    await other.close();
    await cell(0, 4).click();
    await page.keyboard.type("pale");
    await page.keyboard.press("Enter");
    await page.keyboard.press("ArrowUp");
    await seen(page.getByText("Somebody changed this meanwhile: it says dark now."));
    expect((await bake())[0]).toBe("dark");
    await page.getByRole("button", { name: "Write mine" }).click();
    await expect.poll(async () => (await bake())[0]).toBe("pale");
    await browser.context.unroute("**/api/events**");
  });
  it("keeps the order of its columns, and shows only rows still to fill", async () => {
    await page.reload();
    await seen(cell(0, 4));
    await page.getByRole("button", { name: "More for bake" }).click();
    await page.getByRole("menuitem", { name: "Move to the left" }).click();
    await page.reload();
    await expect
      .poll(() => page.getByRole("columnheader").allInnerTexts())
      .toEqual(["picture", "split", "classes", "tags", "bake", "caption"]);
    const left = (await bake()).filter((value) => value === null).length;
    await page.getByRole("button", { name: "Only rows still to fill" }).click();
    await seen(page.getByRole("button", { name: `All rows again (${left} rows to fill)` }));
    await cell(0, 3).click();
    await page.keyboard.type("pale");
    await page.keyboard.press("Enter");
    await expect.poll(async () => (await bake()).filter((value) => value === null).length).toBe(left - 1);
    // The row stays where it is while one goes on.
    expect(await cell(0, 3).innerText()).toContain("pale");
    await page.getByRole("button", { name: /All rows again/ }).click();
  });
  it("goes out as a table and comes in again, looked through before", async () => {
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      page.getByRole("link", { name: "Save as table" }).click(),
    ]);
    const saved = path.join(larder.home, "ledger.csv");
    await download.saveAs(saved);
    const table = path.join(larder.home, "table.csv");
    writeFileSync(table, "name,bake\nimages/p00.png,golden\nimages/p99.png,golden\nimages/p01.png,burnt\n");
    await page.getByLabel("A table to load").setInputFiles(table);
    await seen(page.getByText("3 rows. 1 cell of 1 image says something else than now."));
    await seen(page.getByText('There is no image "images/p99.png" in stock.'));
    await seen(page.getByText("bake is one of pale, golden, dark."));
    await page.getByRole("button", { name: "Write 1 cell" }).click();
    await expect.poll(async () => (await bake())[0]).toBe("golden");
    await page.getByLabel("A table to load").setInputFiles(saved);
    await seen(page.getByText(`${images} rows. 1 cell of 1 image says something else than now.`));
    await page.getByRole("button", { name: "Cancel" }).click();
  });
  it("leaves no error behind in any page", () => {
    expect(errors).toEqual([]);
  });
});
