/** A running Larder with five plain pictures at the bench, and hands to work on them with. */
import { writeArchive } from "@larder/demo/archive";
import path from "node:path";
import type { Page } from "playwright-core";
import sharp from "sharp";
import { openBrowser } from "./browser";
import { startLarder, type RunningLarder } from "./running-larder";

export const pictureSize = { width: 320, height: 240 };
export type PlacedShape = { kind: string } & Record<string, unknown>;
type BenchLabels = {
  objects: { uid: string; class: number; shape: PlacedShape; attributes?: Record<string, unknown> }[];
  suggestions: { uid: string; answer?: string }[];
  state: string;
  tags: string[];
};

export type BenchPage = {
  larder: RunningLarder;
  browser: Awaited<ReturnType<typeof openBrowser>>;
  page: Page;
  collection: number;
  images: number[];
  /** What went wrong on the page without being caught. */
  errors: string[];
  json: <T>(address: string) => Promise<T>;
  post: (address: string, body: unknown, method?: string) => Promise<Record<string, unknown>>;
  labelsOf: (image: number) => Promise<BenchLabels>;
  shapes: (image: number) => Promise<PlacedShape[]>;
  saved: () => Promise<void>;
  /** Opens an image at the bench and tells where a place of the picture lies on the screen. */
  open: (image: number) => Promise<(x: number, y: number) => [number, number]>;
  placed: () => Promise<(x: number, y: number) => [number, number]>;
  drag: (...places: [number, number][]) => Promise<void>;
  close: () => Promise<void>;
};

/** Five pictures, the last one with a thing on it; classes roll and loaf. */
async function pictures(archive: string): Promise<void> {
  const { width, height } = pictureSize;
  const thing = `<svg width="${width}" height="${height}"><ellipse cx="160" cy="120" rx="60" ry="40" fill="#e2a33b"/></svg>`;
  const picture = (n: number) =>
    sharp({ create: { ...pictureSize, channels: 3, background: { r: 60 + n, g: 90, b: 120 } } })
      .composite(n === 4 ? [{ input: Buffer.from(thing) }] : [])
      .png()
      .toBuffer();
  await writeArchive(
    archive,
    Array.from({ length: 5 }, (_, n) => ({ path: `plain_${n}.png`, bytes: () => picture(n) })),
  );
}

export async function openBenchPage(settings: Record<string, string> = {}): Promise<BenchPage> {
  const larder = await startLarder(settings);
  const browser = await openBrowser();
  const page = await browser.context.newPage();
  page.setDefaultTimeout(30_000);
  const errors: string[] = [];
  page.on("pageerror", (error) => errors.push(error.message));
  const json = async <T>(address: string) => (await (await fetch(`${larder.url}${address}`)).json()) as T;
  const post = async (address: string, body: unknown, method = "POST") =>
    (await (
      await fetch(`${larder.url}${address}`, {
        method,
        headers: { "content-type": "application/json" },
        body: JSON.stringify(body),
      })
    ).json()) as Record<string, unknown>;
  const archive = path.join(larder.home, "plain.zip");
  await pictures(archive);
  const collection = (await post("/api/collections", { name: "Bench" }))["id"] as number;
  await page.goto(`${larder.url}/c/${collection}/deliveries`);
  await page.getByLabel("Files to take in").setInputFiles(archive);
  await page.getByRole("button", { name: /^Take in/ }).click();
  await page.getByRole("link", { name: "5 in stock" }).waitFor();
  await post(`/api/collections/${collection}/classes`, { text: "roll\nloaf", fileName: "names.txt" });
  const images = await json<number[]>(`/api/collections/${collection}/stock/ids?start=0&limit=10`);
  const labelsOf = async (image: number) =>
    (await json<{ labels: BenchLabels }>(`/api/collections/${collection}/bench/${image}`)).labels;
  const saved = () => page.getByRole("status").getByText("Saved").waitFor();
  const surface = () => page.getByRole("application");
  const placed = async () => {
    const frame = await surface().locator("img").boundingBox();
    if (!frame) throw new Error("there is no picture");
    const scale = frame.width / pictureSize.width;
    return (x: number, y: number): [number, number] => [frame.x + x * scale, frame.y + y * scale];
  };
  return {
    ...{ larder, browser, page, collection, images, errors, json, post, labelsOf, saved, placed },
    shapes: async (image) => (await labelsOf(image)).objects.map(({ shape }) => shape),
    open: async (image) => {
      await page.goto(`${larder.url}/c/${collection}/bench/${image}`);
      await saved();
      await surface().focus();
      return placed();
    },
    drag: async (...places) => {
      const [first, ...rest] = places;
      if (!first) return;
      await page.mouse.move(...first);
      await page.mouse.down();
      for (const place of rest) await page.mouse.move(...place, { steps: 3 });
      await page.mouse.up();
    },
    close: async () => {
      await browser.close();
      await larder.stop();
    },
  };
}
