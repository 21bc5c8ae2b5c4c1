/** Labels drawn and mended with real pointer events and by the keyboard, then read through a package. */
import { intersectionOverUnion } from "@larder/core/geometry/overlap";
import type { Shape } from "@larder/core/model/shape";
import { Findings } from "@larder/core/model/finding";
import { ZipTree } from "@larder/server/files/zip-tree";
import { settings } from "@larder/server/settings";
import { readFileSync } from "node:fs";
import path from "node:path";
import type { Route } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { violations } from "./accessible";
import { openBenchPage, type BenchPage, type PlacedShape } from "./bench-page";

let bench: BenchPage;
let { larder, browser, page, collection, images, errors, json, post, labelsOf, shapes, saved, open, placed, drag } =
  {} as BenchPage;

beforeAll(async () => {
  bench = await openBenchPage();
  ({ larder, browser, page, collection, images, errors, json, post, labelsOf, shapes, saved, open, placed, drag } =
    bench);
});
afterAll(() => bench?.close());

const surface = () => page.getByRole("application");
/** Within half a pixel. */
const near = (value: number): unknown => expect.closeTo(value, 0);

/** How many pixels a mask covers. */
const maskPixels = (shape: PlacedShape | undefined) =>
  (shape?.["counts"] as number[]).filter((_, n) => n % 2 === 1).reduce((sum, run) => sum + run, 0);

describe("the bench", () => {
  it("draws a box, a turned box, an outline and a line with the mouse, each saved at once", async () => {
    const image = images[0] as number;
    const at = await open(image);
    await page.keyboard.press("2");
    await drag(at(20, 30), at(80, 90));
    await expect.poll(() => shapes(image)).toHaveLength(1);
    await page.keyboard.press("3");
    await drag(at(120, 40), at(160, 80));
    await page.mouse.click(...at(140, 100));
    await expect.poll(() => shapes(image)).toHaveLength(2);
    await page.keyboard.press("4");
    for (const place of [at(200, 40), at(260, 50), at(240, 110)]) await page.mouse.click(...place);
    await page.keyboard.press("Enter");
    await expect.poll(() => shapes(image)).toHaveLength(3);
    await page.keyboard.press("6");
    for (const place of [at(20, 150), at(90, 180), at(160, 150)]) await page.mouse.click(...place);
    await page.keyboard.press("Enter");
    await expect.poll(() => shapes(image)).toHaveLength(4);
    const [box, turned, outline, line] = await shapes(image);
    expect(box).toEqual({ kind: "box", x: near(20), y: near(30), width: near(60), height: near(60) });
    expect(turned).toMatchObject({
      kind: "rotated-box",
      width: near(56.6),
      angle: expect.closeTo(Math.PI / 4, 1) as number,
    });
    expect((outline?.["parts"] as number[][][])[0]?.[0]?.map(Math.round)).toEqual([200, 40, 260, 50, 240, 110]);
    expect((line?.["points"] as number[]).map(Math.round)).toEqual([20, 150, 90, 180, 160, 150]);
    expect(await violations(page)).toBe("");
  });

  it("mends by grips and arrows, names by a code, and takes it all back", async () => {
    const image = images[0] as number;
    const at = await placed();
    await page.keyboard.press("1");
    await page.keyboard.press("Escape");
    await page.mouse.click(...at(22, 60));
    await drag(at(80, 90), at(100, 120));
    await expect.poll(async () => (await shapes(image))[0]?.["width"]).toEqual(near(80));
    await page.keyboard.press("Shift+ArrowRight");
    await expect.poll(async () => (await shapes(image))[0]?.["x"]).toEqual(near(30));
    const classes = await json<{ id: number; name: string; code: string }[]>(`/api/collections/${collection}/classes`);
    const loaf = classes.find(({ name }) => name === "loaf");
    await page.keyboard.type((loaf?.code ?? "").toLowerCase());
    await expect.poll(async () => (await labelsOf(image)).objects[0]?.class).toBe(loaf?.id);
    for (let n = 0; n < 3; n++) await page.keyboard.press("Control+z");
    await expect.poll(async () => (await shapes(image))[0]?.["width"]).toEqual(near(60));
    await page.keyboard.press("Control+Shift+z");
    await expect.poll(async () => (await shapes(image))[0]?.["width"]).toEqual(near(80));
  });

  it("undoes beyond the opening, after the page was loaded anew", async () => {
    const image = images[0] as number;
    await open(image);
    await page.keyboard.press("Control+z");
    await expect.poll(async () => (await shapes(image))[0]?.["width"]).toEqual(near(60));
    await page.keyboard.press("Control+z");
    await expect.poll(() => shapes(image)).toHaveLength(3);
    await page.keyboard.press("Control+Shift+z");
    await expect.poll(() => shapes(image)).toHaveLength(4);
  });

  it("paints a mask with a pen, rubs out of it, fills its hole, and makes it an outline with the loss said before", async () => {
    const image = images[1] as number;
    const at = await open(image);
    await page.keyboard.press("8");
    await page.getByRole("radio", { name: /roll/ }).click();
    await surface().focus();
    const client = await browser.context.newCDPSession(page);
    const pen = async (places: [number, number][]) => {
      const send = (type: "mousePressed" | "mouseMoved" | "mouseReleased", [x, y]: [number, number]) =>
        client.send("Input.dispatchMouseEvent", {
          ...{ type, x, y, pointerType: "pen", button: "left", clickCount: 1 },
          buttons: type === "mouseReleased" ? 0 : 1,
        });
      await send("mousePressed", places[0] as [number, number]);
      for (const place of places.slice(1)) await send("mouseMoved", place);
      await send("mouseReleased", places.at(-1) as [number, number]);
    };
    await pen([at(60, 60), at(140, 60), at(140, 140), at(60, 140), at(60, 60)]);
    await expect.poll(() => shapes(image)).toHaveLength(1);
    const frame = maskPixels((await shapes(image))[0]);
    await page.keyboard.press("-");
    await page.mouse.click(...at(100, 100));
    // The brush is 24 pixels wide: what it left open is a square of 80 less 24.
    await expect.poll(async () => maskPixels((await shapes(image))[0]) - frame).toBe(56 * 56);
    await page.keyboard.press("9");
    await drag(at(100, 100), at(101, 100));
    await expect.poll(async () => maskPixels((await shapes(image))[0]) - frame).toBeLessThan(56 * 56 - 400);
    await page.getByRole("button", { name: "Change it" }).click();
    await page.getByRole("menuitem", { name: "Make it another kind of shape" }).click();
    await page
      .getByRole("status")
      .getByText(/Loses .* corners/)
      .waitFor();
    await page.getByRole("button", { name: "Make it outline" }).click();
    await expect.poll(async () => (await shapes(image))[0]?.kind).toBe("polygon");
  });

  it("works by the keyboard alone: copies from one image to the next, tags, and says that nothing is there", async () => {
    const [first, second, third, last] = images as [number, number, number, number];
    await open(first);
    await page.keyboard.press(".");
    await page.keyboard.press("Control+c");
    await page.keyboard.press("PageDown");
    await page.waitForURL(new RegExp(`/bench/${second}`));
    await page.getByRole("heading", { name: "plain_1.png" }).waitFor();
    await page.keyboard.press("PageDown");
    await page.waitForURL(new RegExp(`/bench/${third}`));
    await page.getByRole("heading", { name: "plain_2.png" }).waitFor();
    await page.keyboard.press("Control+v");
    await expect.poll(() => shapes(third)).toHaveLength(1);
    expect((await shapes(third))[0]).toEqual((await shapes(first))[0]);
    await page.keyboard.press("PageDown");
    await page.waitForURL(new RegExp(`/bench/${last}`));
    await page.getByRole("heading", { name: "plain_3.png" }).waitFor();
    await page.keyboard.press("F2");
    await expect.poll(async () => (await labelsOf(last)).state).toBe("empty");
    await page.keyboard.press("?");
    await page.getByRole("dialog", { name: "Keys of the bench" }).waitFor();
    await page.keyboard.press("Escape");
  });

  it("zooms with two fingers and draws with one", async () => {
    const image = images[3] as number;
    const at = await open(image);
    const client = await browser.context.newCDPSession(page);
    const touch = (type: string, ...places: [number, number][]) =>
      client.send("Input.dispatchTouchEvent", {
        type: type as "touchStart",
        touchPoints: places.map(([x, y], id) => ({ x, y, id })),
      });
    await page.keyboard.press("2");
    await touch("touchStart", at(40, 40));
    await touch("touchMove", at(70, 60));
    await touch("touchMove", at(100, 80));
    await touch("touchEnd");
    await expect.poll(() => shapes(image)).toHaveLength(1);
    expect((await shapes(image))[0]).toEqual({
      kind: "box",
      x: near(40),
      y: near(40),
      width: near(60),
      height: near(40),
    });
    // A mask by a finger: 40 pixels long and 24 wide, with round ends.
    await page.keyboard.press("8");
    await touch("touchStart", at(150, 50));
    await touch("touchMove", at(170, 50));
    await touch("touchMove", at(190, 50));
    await touch("touchEnd");
    await expect.poll(async () => (await shapes(image)).map(({ kind }) => kind)).toEqual(["box", "mask"]);
    const area = maskPixels((await shapes(image))[1]);
    expect(Math.abs(area - (40 * 24 + Math.PI * 12 ** 2))).toBeLessThan(60);
    const before = await surface().locator("img").boundingBox();
    await touch("touchStart", at(100, 100), at(140, 100));
    await touch("touchMove", at(80, 100), at(160, 100));
    await touch("touchEnd");
    await expect
      .poll(async () => ((await surface().locator("img").boundingBox())?.width ?? 0) / (before?.width ?? 1))
      .toBeGreaterThan(1.8);
    expect(await shapes(image)).toHaveLength(2);
  });

  it("proposes the outline of a thing in a box, mends it by what is said, and follows its edge", async () => {
    const image = images[4] as number;
    const at = await open(image);
    await page.keyboard.press(";");
    await drag(at(90, 70), at(230, 170));
    const bar = page.getByRole("group", { name: "Proposed outline" });
    await bar.getByText("Click what belongs to it, with Alt what does not.").waitFor();
    await page.mouse.click(...at(160, 120));
    await bar.getByText("Click what belongs to it").waitFor();
    expect(await violations(page)).toBe("");
    await surface().focus();
    await page.keyboard.press("Enter");
    await expect.poll(() => shapes(image)).toHaveLength(1);
    const ellipse: Shape = {
      kind: "polygon",
      parts: [
        [
          Array.from({ length: 60 }, (_, i) => (i / 60) * 2 * Math.PI).flatMap((angle) => [
            160 + 60 * Math.cos(angle),
            120 + 40 * Math.sin(angle),
          ]),
        ],
      ],
    };
    const [proposed] = (await shapes(image)) as unknown as [Shape];
    expect(intersectionOverUnion(proposed, ellipse)).toBeGreaterThan(0.9);
    await page.keyboard.press("Escape");
    await page.keyboard.press("5");
    for (const [x, y] of [
      [100, 120],
      [160, 80],
      [220, 120],
      [160, 160],
    ] as const) {
      await page.mouse.move(...at(x, y), { steps: 4 });
      await page.mouse.click(...at(x, y));
    }
    await page.mouse.move(...at(100, 120), { steps: 6 });
    await page.mouse.click(...at(100, 120));
    await expect.poll(() => shapes(image)).toHaveLength(2);
    const traced = (await shapes(image))[1] as unknown as Shape;
    expect(intersectionOverUnion(traced, ellipse)).toBeGreaterThan(0.9);
  });

  it("keeps what is done while the server is away, over a closed page, and sends it once it is back", async () => {
    const image = images[2] as number;
    let at = await open(image);
    const away = (route: { abort: () => Promise<void> }) => route.abort();
    await page.route("**/api/collections/*/steps", away);
    await page.keyboard.press("2");
    await drag(at(150, 150), at(200, 190));
    await page.getByText(/Larder does not answer; 1 change kept in this browser/).waitFor();
    await page.keyboard.press("Escape");
    await drag(at(220, 150), at(260, 190));
    await page.getByText(/2 changes kept in this browser/).waitFor();
    expect(await shapes(image)).toHaveLength(1);
    await page.goto("about:blank");
    await page.unroute("**/api/collections/*/steps", away);
    at = await open(image);
    await expect.poll(() => shapes(image)).toHaveLength(3);
    expect((await shapes(image))[1]).toEqual({
      kind: "box",
      x: near(150),
      y: near(150),
      width: near(50),
      height: near(40),
    });
    expect(at).toBeDefined();
  });

  it("keeps what is done while one is signed out, says so, and sends it once the server knows one again", async () => {
    const image = images[4] as number;
    const at = await open(image);
    const before = (await shapes(image)).length;
    const signedOut = (route: Route) =>
      route.fulfill({ status: 401, json: { code: "signed-out", message: "Sign in first." } });
    await page.route("**/api/collections/*/steps", signedOut);
    await page.keyboard.press("2");
    await drag(at(30, 200), at(70, 230));
    await page.getByText("You are signed out: sign in again in another tab; 1 change kept in this browser").waitFor();
    expect(await shapes(image)).toHaveLength(before);
    await page.unroute("**/api/collections/*/steps", signedOut);
    await saved();
    expect((await shapes(image)).at(-1)).toMatchObject({ kind: "box", x: near(30), y: near(200) });
  });

  it("shows both where two people changed the same object, and joins what they did to different ones", async () => {
    const image = images[2] as number;
    const at = await open(image);
    const [one, two] = (await labelsOf(image)).objects;
    if (!one || !two) throw new Error("there are three objects");
    await page.mouse.click(...at(152, 170));
    const other = async (uid: string, x: number) => {
      const { revision } = await json<{ revision: number }>(`/api/collections/${collection}/bench/${image}`);
      await post(`/api/collections/${collection}/steps`, [
        { image, revision, steps: [{ do: "set-shape", uid, shape: { kind: "box", x, y: 5, width: 20, height: 20 } }] },
      ]);
    };
    // The page hears nothing of it before it sends.
    await page.route("**/api/collections/*/bench/*", (route) => route.abort());
    await other(one.uid, 5);
    await page.keyboard.press("ArrowDown");
    await expect.poll(async () => (await shapes(image))[1]?.["y"]).toEqual(near(151));
    expect((await shapes(image))[0]?.["x"]).toBe(5);
    await other(two.uid, 9);
    await page.unroute("**/api/collections/*/bench/*");
    await page.keyboard.press("ArrowDown");
    const dialog = page.getByRole("dialog", { name: "This was not saved" });
    await dialog.getByText("Somebody changed the same of this image meanwhile.").waitFor();
    await dialog.getByText("changed a shape").waitFor();
    // It has to be answered: there is no way past it.
    await page.keyboard.press("Escape");
    expect(await dialog.getByRole("button", { name: "Close" }).count()).toBe(0);
    // Both are drawn on the same part of the picture.
    const drawnAt = async (name: string) => {
      const path = await dialog.getByRole("img", { name }).locator("svg path").first().getAttribute("d");
      const [, x, y] = /^M([^ ]+) ([^h]+)h/.exec(path ?? "") ?? [];
      return { x: Number(x), y: Number(y) };
    };
    expect((await drawnAt("What was done here")).y).toEqual(near(152));
    expect((await drawnAt("What stands there")).x).toBe(9);
    await page.getByRole("button", { name: "Leave it as it stands there" }).click();
    await saved();
    expect((await shapes(image))[1]?.["x"]).toBe(9);
  });

  it("hands on what was drawn: a package says the same to half a pixel", async () => {
    const { id } = (await post(`/api/collections/${collection}/exports`, {
      where: "",
      only: null,
      except: [],
      format: "coco",
    })) as { id: number };
    type Exported = { id: number; packages: { id: number; status: string; fileName?: string }[] };
    const packed = async () =>
      (await json<Exported[]>(`/api/collections/${collection}/exports`)).find((one) => one.id === id)?.packages[0];
    await expect.poll(async () => (await packed())?.status, { timeout: 60_000 }).toBe("ready");
    await page.goto(`${larder.url}/c/${collection}/versions`);
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      page.getByTestId("download-coco").first().click(),
    ]);
    const file = path.join(larder.home, "bench.zip");
    await download.saveAs(file);
    expect(readFileSync(file).subarray(0, 2).toString()).toBe("PK");
    const tree = await ZipTree.open(file, settings().limits, new Findings());
    const annotations = (await tree.entries()).filter(({ path: name }) => name.endsWith(".json"));
    type Coco = { annotations: { bbox: number[]; image_id: number }[]; images: { id: number; file_name: string }[] };
    const all: Coco[] = [];
    for (const { path: name } of annotations) all.push(JSON.parse((await tree.read(name)).toString()) as Coco);
    const boxes = all.flatMap(({ annotations: list }) => list.map(({ bbox }) => bbox));
    expect(boxes).toContainEqual([near(20), near(30), near(60), near(60)]);
    expect(boxes).toContainEqual([near(40), near(40), near(60), near(40)]);
    tree.close();
    expect(errors).toEqual([]);
  });
});
