/** What the intake sheet asks to be decided, decided as a person does it: by the mouse, and by the keyboard alone. */
import path from "node:path";
import type { Page, FileChooser } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { violations } from "./accessible";
import { holdRequests } from "./hold-requests";
import { openBrowser } from "./browser";
import { startLarder, type RunningLarder } from "./running-larder";
import { seen } from "./seen";
import { lay, plate, plateSize } from "./small-files";

let larder: RunningLarder;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;

beforeAll(async () => {
  larder = await startLarder();
  browser = await openBrowser();
  page = await browser.context.newPage();
  page.setDefaultTimeout(30_000);
});
afterAll(async () => {
  await browser?.close();
  await larder?.stop();
});

type Category = { id: number; name: string; keypoints?: string[]; skeleton?: [number, number][] };
type Annotation = { category_id?: number; bbox: number[]; keypoints?: number[]; num_keypoints?: number };

/** Plates with one object each, said to be of some size. */
async function platesOf(
  annotations: readonly Annotation[],
  { size = plateSize, turn = 1, categories = [{ id: 1, name: "roll" }] as Category[] } = {},
): Promise<Record<string, string | Uint8Array>> {
  const pictures = await Promise.all(annotations.map(async (_, n) => [`p${n}.jpg`, await plate(n, turn)] as const));
  return {
    ...Object.fromEntries(pictures),
    "labels.json": JSON.stringify({
      images: annotations.map((_, id) => ({ id, file_name: `p${id}.jpg`, ...size })),
      annotations: annotations.map((annotation, n) => ({ id: n, image_id: n, category_id: 1, ...annotation })),
      categories,
    }),
  };
}

/** Files that were chosen for a new collection; answers with the collection's address. */
async function send(name: string, files: Record<string, string | Uint8Array>): Promise<string> {
  const collection = await larder.makeCollection(name);
  await page.goto(`${collection}/deliveries`);
  await page.getByLabel("Files to take in").setInputFiles(lay(path.join(larder.home, name), files));
  return collection;
}

const button = (name: string | RegExp) => page.getByRole("button", { name });

async function takeIn(images: number): Promise<void> {
  const taking = button(images === 1 ? "Take in 1 image" : `Take in ${images} images`);
  const inStock = page.getByRole("link", { name: `${images} in stock` });
  await seen(taking);
  // A press while the delivery is being read otherwise is refused, and made again.
  const press = async () => {
    if (await taking.isEnabled({ timeout: 500 }).catch(() => false))
      await taking.click({ timeout: 1000 }).catch(() => undefined);
    return inStock.count();
  };
  await expect.poll(press, { timeout: 60_000, interval: 1000 }).toBeGreaterThan(0);
}

/** The file chooser that Enter opens; pressed again where the page was not listening yet. */
async function chooserByEnter(attempts = 5): Promise<FileChooser> {
  const opened = page.waitForEvent("filechooser", { timeout: 6000 });
  await page.keyboard.press("Enter");
  return opened.catch((error: unknown) => {
    if (attempts <= 1) throw error;
    return chooserByEnter(attempts - 1);
  });
}

type Labels = { objects: { class: number; shape: Record<string, unknown> }[] };

/** The labels of each image in a collection's stock, by its name. */
async function stockOf(collection: string): Promise<Map<string, Labels["objects"]>> {
  const address = collection.replace("/c/", "/api/collections/");
  const fetched = async <T>(path: string) => (await (await page.request.get(`${address}${path}`)).json()) as T;
  const { rows } = await fetched<{ rows: { id: number; name: string }[] }>("/ledger?start=0&limit=100");
  const labels = await Promise.all(
    rows.map(
      async ({ id, name }) => [name, (await fetched<{ labels: Labels }>(`/bench/${id}`)).labels.objects] as const,
    ),
  );
  return new Map(labels);
}

const box = (x: number, y: number, width: number, height: number) => ({
  shape: expect.objectContaining({ kind: "box", x, y, width, height }) as unknown,
});

describe("labels that lie beside their picture", () => {
  const boxes = [{ bbox: [20, 30, 60, 40] }, { bbox: [200, 10, 100, 50] }, { bbox: [0, 100, 320, 140] }];

  it("since the camera turned it, are turned at a press", async () => {
    const collection = await send("turned", await platesOf(boxes, { turn: 6 }));
    await seen(page.getByText("3 pictures' labels were made on the camera's unturned pixels"));
    expect(await violations(page), "labels to be turned").toBe("");
    await button("See labels-turned").click();
    await seen(button(/^p0\.jpg: 1 object/));
    await button("Turn the labels").click();
    await expect.poll(() => button("Turn the labels").count()).toBe(0);
    await takeIn(3);
    // A quarter turn clockwise of 320 × 240: x is 240 less y and the height, y is x.
    const stock = await stockOf(collection);
    expect(stock.get("p0.jpg")).toEqual([expect.objectContaining(box(170, 20, 40, 60))]);
    expect(stock.get("p1.jpg")).toEqual([expect.objectContaining(box(180, 200, 50, 100))]);
    expect(stock.get("p2.jpg")).toEqual([expect.objectContaining(box(0, 0, 140, 320))]);
  });

  it("since they were made on a larger one, are scaled at a press, or left as they are", async () => {
    const size = { width: 640, height: 480 };
    const collection = await send("scaled", await platesOf(boxes, { size }));
    await seen(page.getByText("3 pictures' labels were made on another scale of them"));
    await button("Leave them as they are").click();
    await expect.poll(() => button("Scale the labels").count()).toBe(0);
    // The choice is made again where it is said how the delivery is read.
    await button("read it otherwise").click();
    const dialog = await seen(page.getByRole("dialog", { name: "Read it otherwise" }));
    await dialog.getByLabel(/^scale:/).selectOption("labels");
    const letGo = await holdRequests(page, /\/api\/deliveries\/\d+$/, "PATCH");
    await button("Read it so").click();
    // Until it is known how it is read, nothing is taken in by what was chosen before.
    await expect.poll(() => button("Take in 3 images").isDisabled()).toBe(true);
    letGo();
    await takeIn(3);
    const stock = await stockOf(collection);
    expect(stock.get("p0.jpg")).toEqual([expect.objectContaining(box(10, 15, 30, 20))]);
    expect(stock.get("p2.jpg")).toEqual([expect.objectContaining(box(0, 50, 160, 70))]);
  });
});

describe("the same bytes twice in a delivery", () => {
  it("stand side by side with what is said of each, and the one that is chosen comes in", async () => {
    const categories = [
      { id: 1, name: "roll" },
      { id: 2, name: "tart" },
    ];
    const files = await platesOf(
      [{ bbox: [20, 30, 60, 40] }, { bbox: [40, 50, 60, 40], category_id: 2 }, { bbox: [1, 2, 30, 40] }],
      {
        categories,
      },
    );
    files["p1.jpg"] = files["p0.jpg"] as Uint8Array;
    const collection = await send("repeats", files);
    await button("See copy-in-delivery").click();
    await expect.poll(() => button(/^p\d\.jpg: 1 object/).count()).toBe(2);
    expect(await button(/^p0\.jpg: 1 object of roll/).count()).toBe(1);
    expect(await button(/^p1\.jpg: 1 object of tart/).count()).toBe(1);
    await seen(page.getByText("of each the first that is not left out is taken"));
    await button(/^p0\.jpg: 1 object of roll/).click();
    await seen(button(/^p0\.jpg: 1 object of \w+, left out/));
    await takeIn(2);
    const stock = await stockOf(collection);
    expect([...stock.keys()].sort()).toEqual(["p1.jpg", "p2.jpg"]);
    expect(stock.get("p1.jpg")).toEqual([expect.objectContaining(box(40, 50, 60, 40))]);
  });
});

describe("by the keyboard alone", () => {
  /** Goes on by Tab until what has the focus goes by this name. */
  async function tabTo(name: RegExp, key = "Tab"): Promise<void> {
    const names: string[] = [];
    for (let press = 0; press < 120; press++) {
      const focused = await page.evaluate(() => {
        const { activeElement: element } = document;
        if (!element || element === document.body) return "";
        return element.getAttribute("aria-label") ?? (element as HTMLElement).innerText;
      });
      if (name.test(focused)) return;
      names.push(focused);
      await page.keyboard.press(key);
    }
    throw new Error(`${name.source} is not among ${names.join(" | ")}`);
  }

  it("files are chosen, classes merged, a split dealt, a picture looked at and left out, all taken in", async () => {
    const collection = await larder.makeCollection("Keys");
    const files = await platesOf(
      Array.from({ length: 8 }, (_, n) => ({ bbox: [10, 10, 20 + n, 20], category_id: 1 + (n % 2) })),
      {
        categories: [
          { id: 1, name: "roll" },
          { id: 2, name: "rolls" },
        ],
      },
    );
    await page.goto(`${collection}/deliveries`);
    await tabTo(/^Choose files$/);
    const chooser = await chooserByEnter();
    await chooser.setFiles(lay(path.join(larder.home, "keys"), files));
    await seen(button("Take in 8 images"));
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await tabTo(/^all train$/);
    await page.keyboard.press("Space");
    await expect.poll(() => button("all train").getAttribute("aria-pressed")).toBe("true");
    // Eight pictures are one stop.
    await tabTo(/^p0\.jpg/);
    await page.keyboard.press("ArrowRight");
    await page.keyboard.press("ArrowRight");
    await tabTo(/^p2\.jpg/);
    await page.keyboard.press("Tab");
    await tabTo(/^Look at p2\.jpg/);
    await page.keyboard.press("Enter");
    await seen(page.getByRole("dialog"));
    await page.keyboard.press("Escape");
    await expect.poll(() => page.getByRole("dialog").count()).toBe(0);
    await tabTo(/^Look at p2\.jpg/);
    await page.keyboard.press("Shift+Tab");
    await page.keyboard.press("Space");
    await seen(button(/^p2\.jpg: 1 object of \w+, left out/));
    // With Shift, all up to the one that the keyboard is at.
    await page.keyboard.press("ArrowRight");
    await page.keyboard.press("Shift+Enter");
    await seen(button(/^p3\.jpg: 1 object of \w+, left out/));
    await tabTo(/^Merge into roll/);
    await page.keyboard.press("Enter");
    await expect.poll(() => button(/^Merge into/).count()).toBe(0);
    await tabTo(/^Take in 6 images/, "Shift+Tab");
    await page.keyboard.press("Enter");
    await seen(page.getByRole("link", { name: "6 in stock" }));
    const stock = await stockOf(collection);
    expect([...stock.keys()].sort()).toEqual(["p0.jpg", "p1.jpg", "p4.jpg", "p5.jpg", "p6.jpg", "p7.jpg"]);
    expect(new Set([...stock.values()].flat().map((object) => object.class)).size).toBe(1);
  });
});

describe("keypoints", () => {
  it("that swap in a mirror are known by their names, are told otherwise, and go back to their names", async () => {
    const points = ["left eye", "right eye", "nose"];
    const collection = await send(
      "points",
      await platesOf([{ bbox: [20, 30, 60, 40], keypoints: [30, 40, 2, 60, 40, 2, 45, 50, 2], num_keypoints: 3 }], {
        categories: [{ id: 1, name: "face", keypoints: points, skeleton: [[1, 2]] }],
      }),
    );
    await takeIn(1);
    await page.goto(`${collection}/classes`);
    await button("3 points, 1 pair of face").click();
    const dialog = await seen(page.getByRole("dialog", { name: "Left and right of face" }));
    await expect.poll(() => dialog.getByLabel("left eye swaps with").inputValue()).toBe("1");
    expect(await violations(page), "keypoint pairs").toBe("");
    await dialog.getByLabel("nose swaps with").selectOption({ label: "left eye" });
    // One has one partner: the eye it had before stays itself.
    expect(await dialog.getByLabel("left eye swaps with").inputValue()).toBe("2");
    expect(await dialog.getByLabel("right eye swaps with").inputValue()).toBe("-1");
    await button("Set pairs").click();
    await expect.poll(() => page.getByRole("dialog").count()).toBe(0);
    const pairs = async () => {
      const response = await page.request.get(`${collection.replace("/c/", "/api/collections/")}/classes`);
      return ((await response.json()) as { pairs: [number, number][] | null }[])[0]?.pairs;
    };
    expect(await pairs()).toEqual([[0, 2]]);
    await button("3 points, 1 pair of face").click();
    await dialog.getByLabel("left eye swaps with").selectOption({ label: "no other" });
    await button("Set pairs").click();
    await button("3 points, 0 pairs of face").click();
    await button("Leave it to the names").click();
    await seen(button("3 points, 1 pair of face"));
    expect(await pairs()).toBeNull();
  });
});
