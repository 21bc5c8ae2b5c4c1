/**
 * Stock in Chromium, scrolled at speed: tasks of the main thread over the grid, and how long cut-outs stay blank that go
 * by at a thousand a second, made for the first time and made before.
 */
import { openBrowser } from "@larder/e2e/browser";
import { startLarder } from "@larder/e2e/running-larder";
import { writeArchive } from "@larder/demo/archive";
import path from "node:path";
import type { Page } from "playwright-core";
import sharp from "sharp";

const size = { width: 640, height: 480 };
const images = 1000;
const objectsEach = 24;
/** How far the grid is scrolled down and up, in pixels. */
const depth = 15_000;
/** How fast, in pixels a second, and how often: as a finger on a wheel, as a bar that is dragged. */
const gridSpeeds = [
  { speed: 15_000, turns: 2, says: "as soon as it is there" },
  { speed: 15_000, turns: 2, says: "once more" },
  { speed: 4000, turns: 2, says: "" },
  { speed: 2000, turns: 2, says: "" },
  { speed: 1000, turns: 2, says: "" },
];

async function picture(seed: number): Promise<Buffer> {
  const noise = { type: "gaussian" as const, mean: 128, sigma: 40 };
  const coarse = await sharp({ create: { width: 80, height: 60, channels: 3, background: "#888", noise } })
    .png()
    .toBuffer();
  return sharp(coarse)
    .resize(size.width, size.height)
    .modulate({ hue: seed % 360 })
    .jpeg({ quality: 80 })
    .toBuffer();
}

const nameOf = (n: number) => `rack_${String(n).padStart(5, "0")}.jpg`;

function annotations(): string {
  const boxes = Array.from({ length: images * objectsEach }, (_, n) => {
    const [image, k] = [Math.floor(n / objectsEach), n % objectsEach];
    const [width, height] = [40 + ((n * 7) % 50), 30 + ((n * 11) % 50)];
    const bbox = [(k % 6) * 100 + 5, Math.floor(k / 6) * 115 + 5, width, height];
    return { id: n + 1, image_id: image + 1, category_id: 1, bbox, area: width * height, iscrowd: 0 };
  });
  return JSON.stringify({
    images: Array.from({ length: images }, (_, n) => ({ id: n + 1, file_name: nameOf(n), ...size })),
    annotations: boxes,
    categories: [{ id: 1, name: "roll" }],
  });
}

/** Tasks of the main thread that took 50 milliseconds or more, as the page itself is told of them. */
async function longTasksDuring(page: Page, work: () => Promise<void>): Promise<number[]> {
  await page.evaluate(() => {
    const long: number[] = [];
    const observer = new PerformanceObserver((list) => long.push(...list.getEntries().map(({ duration }) => duration)));
    observer.observe({ type: "longtask" });
    Object.assign(window, { long, observer });
  });
  await work();
  await page.waitForTimeout(1000);
  return page.evaluate(() => {
    const { long, observer } = window as unknown as { long: number[]; observer: PerformanceObserver };
    observer.disconnect();
    return long;
  });
}

type Blanks = { longest: number; settled: number; shown: number };

/** Looks at every frame, until it is told to stop, how much of the view is blank. */
function watchBlanks(): void {
  const isShown = (cell: Element) => {
    const picture = cell.querySelector("img");
    return picture !== null && picture.complete && picture.naturalWidth > 0;
  };
  const inView = () =>
    [...document.querySelectorAll("[role=grid] [role=gridcell]")].filter((cell) => {
      const { top, bottom } = cell.getBoundingClientRect();
      return bottom > 0 && top < window.innerHeight;
    });
  const frame = () => new Promise<number>((resolve) => requestAnimationFrame(resolve));
  const seen = new Set<string>();
  let isStopped = false;
  const watch = async (): Promise<Blanks> => {
    let [longest, blankSince] = [0, -1];
    while (!isStopped) {
      const now = await frame();
      const cells = inView();
      const shown = cells.filter(isShown);
      for (const cell of shown) seen.add(cell.querySelector("[data-index]")?.getAttribute("data-index") ?? "");
      const isBlank = shown.length === 0 || shown.length < cells.length / 2;
      blankSince = isBlank ? (blankSince < 0 ? now : blankSince) : -1;
      if (isBlank) longest = Math.max(longest, now - blankSince);
    }
    const stopped = performance.now();
    while (inView().length === 0 || !inView().every(isShown)) await frame();
    return { longest, settled: performance.now() - stopped, shown: seen.size };
  };
  const watching = watch();
  Object.assign(window, {
    stopWatching: () => {
      isStopped = true;
      return watching;
    },
  });
}

const stopWatching = (page: Page): Promise<Blanks> =>
  page.evaluate(() => (window as unknown as { stopWatching: () => Promise<Blanks> }).stopWatching());

/** How many milliseconds it takes until the thumbnails of all cells in view have come. */
async function untilThumbnailsCame(): Promise<number> {
  const began = performance.now();
  const cells = () =>
    [...document.querySelectorAll("[role=grid] [role=gridcell]")].filter((cell) => {
      const { top, bottom } = cell.getBoundingClientRect();
      return bottom > 0 && top < window.innerHeight;
    });
  const shown = () => cells().map((cell) => cell.querySelector<HTMLElement>("[data-thumbnail]"));
  while (shown().some((thumbnail) => !thumbnail)) await new Promise((resolve) => requestAnimationFrame(resolve));
  // Whoever asks for a picture that is on its way gets that one.
  await Promise.all(
    shown().map((thumbnail) => {
      const image = new Image();
      image.src = /url\("(.*)"\)/.exec(thumbnail?.style.backgroundImage ?? "")?.[1] ?? "";
      return image.decode();
    }),
  );
  return performance.now() - began;
}

/** Turns the wheel by so many pixels a second, and tells how long more than half of the view was blank. */
async function scrollThrough(page: Page, pixelsASecond: number, seconds: number): Promise<Blanks> {
  await page.mouse.move(600, 500);
  await page.evaluate(watchBlanks);
  const began = performance.now();
  for (let turned = 0, now = began; now - began < seconds * 1000; now = performance.now()) {
    const wanted = ((now - began) / 1000) * pixelsASecond;
    await page.mouse.wheel(0, wanted - turned);
    turned = wanted;
    await page.waitForTimeout(16);
  }
  return stopWatching(page);
}

/** Has every cut-out of the first group made. */
async function makeAll(address: string): Promise<void> {
  const get = async <T>(path: string) => (await (await fetch(`${address}/${path}`)).json()) as T;
  const [first] = await get<{ group: { of: string; id: number }; count: number }[]>("cutouts/groups");
  if (!first) throw new Error("there are no cut-outs");
  const { of, id } = first.group;
  for (let start = 0; start < first.count; start += 300)
    await get(`cutouts?of=${of}&id=${id}&by=size&down=true&start=${start}&limit=300&pictures=sharp`);
}

export async function benchScrolling(): Promise<void> {
  console.log(`scrolling (Chromium, without a graphics card): ${images} images with ${objectsEach} objects each`);
  const larder = await startLarder();
  const browser = await openBrowser();
  try {
    const page = await browser.context.newPage();
    const archive = path.join(larder.home, "racks.zip");
    await writeArchive(archive, [
      ...Array.from({ length: images }, (_, n) => ({ path: nameOf(n), bytes: () => picture(n) })),
      { path: "annotations.json", bytes: () => Promise.resolve(Buffer.from(annotations())) },
    ]);
    const address = await larder.makeCollection("Racks");
    const collection = address.split("/").at(-1) ?? "";
    await page.goto(`${address}/deliveries`);
    await page.getByLabel("Files to take in").setInputFiles(archive);
    await page.getByRole("button", { name: /^Take in/ }).click({ timeout: 300_000 });
    await page.getByRole("link", { name: "1,000 in stock" }).waitFor({ timeout: 300_000 });
    // What is learned of the pictures afterwards would share the processor.
    const busy = async () => {
      const jobs = (await (await fetch(`${larder.url}/api/jobs`)).json()) as { status: string }[];
      return jobs.some(({ status }) => status === "queued" || status === "running");
    };
    while (await busy()) await page.waitForTimeout(1000);

    await page.goto(`${larder.url}/c/${collection}/stock`);
    await page.getByRole("gridcell").first().waitFor();
    await page.waitForLoadState("networkidle");
    // By the browser itself: a wheel turned from outside waits for the page, and is the slower the busier that is.
    const client = await page.context().newCDPSession(page);
    const turn = async (speed: number) => {
      for (const yDistance of [-depth, depth])
        await client.send("Input.synthesizeScrollGesture", { x: 600, y: 500, yDistance, speed, preventFling: true });
    };
    for (const { speed, turns, says } of gridSpeeds) {
      let settled = 0;
      const tasks = await longTasksDuring(page, async () => {
        for (let n = 0; n < turns; n++) await turn(speed);
        settled = await page.evaluate(untilThumbnailsCame);
      });
      const longest = tasks.length > 0 ? `, the longest ${Math.max(...tasks).toFixed(0)} ms` : "";
      const which = `${speed.toLocaleString("en-US")} pixels a second for ${((2 * turns * depth) / speed).toFixed(0)} s`;
      console.log(
        `  the grid at ${which}${says && `, ${says}`}: ${tasks.length} tasks over 50 ms (aim: none)${longest}; all pictures there ${settled.toFixed(0)} ms after stopping`,
      );
    }

    for (const round of ["made for the first time", "made before"]) {
      if (round === "made before") await makeAll(`${larder.url}/api/collections/${collection}`);
      await page.goto(`${larder.url}/c/${collection}/stock?show=cutouts&by=size`);
      await page.locator("[role=grid] img").first().waitFor();
      await page.waitForLoadState("networkidle");
      const [columns, pitch] = await page.evaluate(() => {
        const rows = [...document.querySelectorAll("[role=grid] [role=row]")];
        const tops = rows.map((row) => row.getBoundingClientRect().top);
        return [rows[0]?.children.length ?? 1, (tops[1] ?? 0) - (tops[0] ?? 0)];
      });
      const { longest, settled, shown } = await scrollThrough(page, (1000 / (columns ?? 1)) * (pitch ?? 1), 10);
      console.log(
        `  cut-outs at 1,000 a second, ${round}: more than half of the view blank for ${longest.toFixed(0)} ms at most (aim: 500 ms), ${shown.toLocaleString("en-US")} of some 10,000 seen, all there ${settled.toFixed(0)} ms after stopping`,
      );
    }
  } finally {
    await browser.close();
    await larder.stop();
  }
}
