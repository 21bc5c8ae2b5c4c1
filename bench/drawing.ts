/**
 * The bench of labels in Chromium: the main thread's tasks while somebody pans, zooms and paints over a large picture with
 * many shapes, and how soon the next image is there.
 */
import { startLarder } from "@larder/e2e/running-larder";
import { openBrowser } from "@larder/e2e/browser";
import { writeArchive } from "@larder/demo/archive";
import { v7 as uuidV7 } from "uuid";
import path from "node:path";
import type { Page } from "playwright-core";
import sharp from "sharp";
import { longestPerFrame, tasksDuring, type Task } from "./main-thread";
import { percentile } from "./timing";

const size = { width: 3840, height: 2160 };
const pictures = 6;

/** A picture of that size with something in every part of it. */
async function picture(seed: number): Promise<Buffer> {
  const noise = sharp({
    create: {
      width: 960,
      height: 540,
      channels: 3,
      background: "#888",
      noise: { type: "gaussian", mean: 128, sigma: 40 },
    },
  });
  const coarse = await noise.png().toBuffer();
  return sharp(coarse)
    .resize(size.width, size.height)
    .modulate({ hue: seed * 30 })
    .jpeg({ quality: 80 })
    .toBuffer();
}

/** Polygons of 40 corners in rows over the whole picture. */
function polygons(count: number): unknown[] {
  const columns = Math.ceil(Math.sqrt((count * size.width) / size.height));
  const rows = Math.ceil(count / columns);
  return Array.from({ length: count }, (_, n) => {
    const [cx, cy] = [
      ((n % columns) + 0.5) * (size.width / columns),
      (Math.floor(n / columns) + 0.5) * (size.height / rows),
    ];
    const ring = Array.from({ length: 40 }, (__, i) => {
      const [angle, radius] = [(i / 40) * 2 * Math.PI, i % 2 === 0 ? 55 : 42];
      return [cx + radius * Math.cos(angle), cy + radius * Math.sin(angle)];
    }).flat();
    return { kind: "polygon", parts: [[ring]] };
  });
}

const boxes = (count: number): unknown[] =>
  Array.from({ length: count }, (_, n) => ({
    ...{ kind: "box", x: ((n * 97) % 3700) + 1, y: ((n * 53) % 2050) + 1 },
    ...{ width: 40 + (n % 60), height: 30 + (n % 50) },
  }));

const report = (name: string, tasks: readonly Task[], aim: number) => {
  const frames = longestPerFrame(tasks);
  console.log(
    `  ${name}: longest task of a frame, median ${percentile(frames, 0.5).toFixed(1)}, 95th percentile ${percentile(frames, 0.95).toFixed(1)}, worst ${percentile(frames, 1).toFixed(1)} ms over ${frames.length} frames (aim: ${aim} ms)`,
  );
};

export async function benchDrawing(): Promise<void> {
  console.log("drawing (Chromium, without a graphics card):");
  const larder = await startLarder();
  const browser = await openBrowser();
  try {
    const page = await browser.context.newPage();
    const post = async (address: string, body: unknown) =>
      (await (
        await fetch(`${larder.url}${address}`, {
          method: "POST",
          headers: { "content-type": "application/json" },
          body: JSON.stringify(body),
        })
      ).json()) as Record<string, unknown>;
    const get = async <T>(address: string) => (await (await fetch(`${larder.url}${address}`)).json()) as T;
    const archive = path.join(larder.home, "large.zip");
    await writeArchive(
      archive,
      Array.from({ length: pictures }, (_, n) => ({ path: `large_${n}.jpg`, bytes: () => picture(n) })),
    );
    const collection = (await post("/api/collections", { name: "Large" }))["id"] as number;
    await page.goto(`${larder.url}/c/${collection}/deliveries`);
    await page.getByLabel("Files to take in").setInputFiles(archive);
    await page.getByRole("button", { name: /^Take in/ }).click({ timeout: 120_000 });
    await page.getByRole("link", { name: `${pictures} in stock` }).waitFor({ timeout: 120_000 });
    await post(`/api/collections/${collection}/classes`, { text: "roll\nloaf", fileName: "names.txt" });
    const classes = await get<{ id: number }[]>(`/api/collections/${collection}/classes`);
    const images = await get<number[]>(`/api/collections/${collection}/stock/ids?start=0&limit=10`);
    const label = async (image: number, shapes: readonly unknown[]) => {
      const steps = shapes.map((shape, order) => ({
        do: "add-object",
        object: { uid: uuidV7(), class: classes[order % 2]?.id, order, shape },
      }));
      await post(`/api/collections/${collection}/steps`, [{ image, revision: 0, steps }]);
    };
    const open = async (image: number) => {
      await page.goto(`${larder.url}/c/${collection}/bench/${image}`);
      await page.getByRole("status").getByText("Saved").waitFor();
      await page.waitForLoadState("networkidle");
      await page.waitForTimeout(1000);
    };
    const [dense, boxed, plain] = images as [number, number, number];
    await label(dense, polygons(500));
    await label(boxed, boxes(2000));
    const pan = async () => {
      await page.mouse.move(500, 400);
      await page.keyboard.down("Space");
      await page.mouse.down();
      for (let n = 0; n < 100; n++) {
        await page.mouse.move(500 + 200 * Math.sin(n / 8), 400 + 100 * Math.cos(n / 5));
        await page.waitForTimeout(16);
      }
      await page.mouse.up();
      await page.keyboard.up("Space");
    };
    const zoom = async () => {
      await page.mouse.move(480, 380);
      for (let n = 0; n < 100; n++) {
        await page.mouse.wheel(0, n % 50 < 25 ? -40 : 40);
        await page.waitForTimeout(16);
      }
    };
    await open(dense);
    report("500 polygons of 40 points, pan", await tasksDuring(page, pan), 16);
    report("500 polygons of 40 points, zoom", await tasksDuring(page, zoom), 16);
    await open(boxed);
    report("2,000 boxes, pan", await tasksDuring(page, pan), 33);
    report("2,000 boxes, zoom", await tasksDuring(page, zoom), 33);
    await open(plain);
    await page.getByRole("application").focus();
    await page.keyboard.press("8");
    const paint = async () => {
      await page.mouse.move(300, 300);
      await page.mouse.down();
      for (let n = 0; n < 100; n++) {
        await page.mouse.move(300 + 4 * n, 300 + 100 * Math.sin(n / 10));
        await page.waitForTimeout(16);
      }
    };
    report("a brush stroke on 3,840 × 2,160", await tasksDuring(page, paint), 16);
    report(
      "the stroke let go of",
      await tasksDuring(page, async () => {
        await page.mouse.up();
        await page.waitForTimeout(1000);
      }),
      16,
    );
    await page.keyboard.press("Escape");
    await page.keyboard.press("Escape");
    const shown: number[] = [];
    for (const next of images.slice(3)) {
      await page.waitForTimeout(2500);
      shown.push(await timeToShow(page, next));
    }
    console.log(
      `  next image, fetched ahead: ${shown.map((value) => `${value.toFixed(0)} ms`).join(", ")} (aim: 150 ms)`,
    );
  } finally {
    await browser.close();
    await larder.stop();
  }
}

/** From the key to the frame in which the next image's picture is shown. */
async function timeToShow(page: Page, image: number): Promise<number> {
  await page.evaluate((id) => {
    let began = 0;
    window.addEventListener("keydown", () => (began = performance.now()), { once: true, capture: true });
    const result = new Promise<number>((resolve) => {
      const look = () => {
        const picture = document.querySelector<HTMLImageElement>("[role=application] img");
        if (began > 0 && picture?.src.endsWith(`/api/images/${id}/picture`) && picture.complete)
          requestAnimationFrame(() => resolve(performance.now() - began));
        else requestAnimationFrame(look);
      };
      look();
    });
    Object.assign(window, { timeToShow: result });
  }, image);
  await page.keyboard.press("PageDown");
  return page.evaluate(() => (window as unknown as { timeToShow: Promise<number> }).timeToShow);
}
