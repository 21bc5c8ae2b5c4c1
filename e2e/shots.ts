/** Takes the pictures in docs/screenshots from the running demo. */
import { settings } from "@larder/server/settings";
import { mkdirSync, mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import type { Page } from "playwright-core";
import { openBrowser } from "./browser";
import { densePictureSize, writeDensePicture } from "./dense-picture";

/** `go` may return what has to be done once the picture is taken. */
type View = { file: string; dark?: boolean; go: (page: Page, url: string) => Promise<void | (() => Promise<void>)> };

async function collectionId(url: string, name: string): Promise<number> {
  const shelves = (await (await fetch(`${url}/api/collections`)).json()) as { id: number; name: string }[];
  const found = shelves.find((shelf) => shelf.name === name);
  if (!found) throw new Error(`The demo's collection "${name}" is not there; run ./larder up first.`);
  return found.id;
}

async function firstOf(url: string, list: string): Promise<number> {
  const [first] = (await (await fetch(`${url}${list}`)).json()) as { id: number }[];
  return first?.id ?? 0;
}

/** A collection that is made for a picture and deleted after it. */
async function withCollection(
  url: string,
  name: string,
  work: (id: number) => Promise<void>,
): Promise<() => Promise<void>> {
  const { id } = (await (
    await fetch(`${url}/api/collections`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ name }),
    })
  ).json()) as { id: number };
  const remove = async () =>
    void (await fetch(`${url}/api/collections/${id}`, {
      method: "DELETE",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ typedName: name }),
    }));
  try {
    await work(id);
  } catch (error) {
    await remove();
    throw error;
  }
  return remove;
}

type Outline = { x: number; y: number; width: number; height: number };
type Trays = { outlines: Outline[]; size: { width: number; height: number } };

/** Opens a crowded image at the bench, of a collection that is deleted once the picture is taken. */
const withNineTrays = (page: Page, url: string, work: (trays: Trays) => Promise<void>) =>
  withCollection(url, "Nine trays", async (id) => {
    const archive = path.join(mkdtempSync(path.join(tmpdir(), "larder-shots-")), "nine_trays.zip");
    await writeDensePicture(archive);
    await page.goto(`${url}/c/${id}/deliveries`);
    await page.getByLabel("Files to take in").setInputFiles(archive);
    await page.getByRole("button", { name: /^Take in/ }).click();
    await page.getByRole("link", { name: "1 in stock" }).waitFor();
    const [image] = (await (await fetch(`${url}/api/collections/${id}/stock/ids?start=0&limit=1`)).json()) as number[];
    type Opened = { labels: { objects: { shape: { parts?: number[][][] } }[] } };
    const { labels } = (await (await fetch(`${url}/api/collections/${id}/bench/${image}`)).json()) as Opened;
    const outlines = labels.objects.map(({ shape }): Outline => {
      const ring = shape.parts?.[0]?.[0] ?? [];
      const axis = (from: 0 | 1) => ring.filter((_, at) => at % 2 === from);
      const [x, y] = [Math.min(...axis(0)), Math.min(...axis(1))];
      return { x, y, width: Math.max(...axis(0)) - x, height: Math.max(...axis(1)) - y };
    });
    await page.goto(`${url}/c/${id}/bench/${image}`);
    await page.getByRole("list", { name: "Objects" }).getByRole("button").nth(4).waitFor();
    await work({ outlines, size: densePictureSize });
  });

/** Where places of the picture at the bench lie on the screen. */
async function placesOn(page: Page, size: { width: number; height: number }) {
  const frame = await page.getByRole("application").locator("img").boundingBox();
  if (!frame) throw new Error("there is no picture");
  return (x: number, y: number): [number, number] => [
    frame.x + (x * frame.width) / size.width,
    frame.y + (y * frame.height) / size.height,
  ];
}

const racks = "Cooling racks";
const station = (name: string) => async (page: Page, url: string) => {
  await page.goto(`${url}/c/${await collectionId(url, racks)}/${name}`);
  await page.getByRole("navigation", { name: "Stations" }).waitFor();
};

const views: View[] = [
  { file: "shelves.png", go: async (page, url) => void (await page.goto(url)) },
  { file: "deliveries.png", go: station("deliveries") },
  {
    file: "intake-sheet.png",
    go: async (page, url) => {
      const id = await collectionId(url, racks);
      await page.goto(`${url}/c/${id}/deliveries/${await firstOf(url, `/api/collections/${id}/deliveries`)}`);
    },
  },
  {
    file: "intake-classes.png",
    go: async (page, url) => {
      const id = await collectionId(url, racks);
      await page.goto(`${url}/c/${id}/deliveries/${await firstOf(url, `/api/collections/${id}/deliveries`)}`);
      await page.getByRole("heading", { name: "Classes" }).waitFor();
      // The images above take their place before the page knows how long it is.
      await page.getByTestId("delivery-images").locator("img").first().waitFor();
      await page.evaluate(() => window.scrollTo(0, document.body.scrollHeight));
    },
  },
  { file: "stock.png", go: station("stock?where=has%20pretzel") },
  {
    file: "image.png",
    go: async (page, url) => {
      const id = await collectionId(url, racks);
      const { images } = (await (
        await fetch(`${url}/api/collections/${id}/stock?where=has%20pretzel&start=3&limit=1`)
      ).json()) as { images: { id: number }[] };
      await page.goto(`${url}/c/${id}/stock/${images[0]?.id}`);
    },
  },
  {
    file: "history.png",
    go: async (page, url) => {
      const id = await collectionId(url, racks);
      const sent = async (answer: Promise<Response>) => {
        // What was not done must not be taken back: undoing would reach for what came before it.
        if (!(await answer).ok) throw new Error(await (await answer).text());
      };
      const act = (where: string, request: object) =>
        sent(
          fetch(`${url}/api/collections/${id}/acts`, {
            method: "POST",
            headers: { "content-type": "application/json" },
            body: JSON.stringify({ where, act: request }),
          }),
        );
      const undo = () =>
        sent(
          fetch(`${url}/api/collections/${id}/undo`, {
            method: "POST",
            headers: { "content-type": "application/json" },
            body: JSON.stringify({ again: false }),
          }),
        );
      await act("has tart and split = train", { do: "move", split: "val" });
      await undo();
      await act("state = unlabeled", { do: "remove" });
      await act("has pretzel", { do: "tag", tag: "look at the knots" });
      await page.goto(`${url}/c/${id}/history`);
      await page
        .getByRole("cell", { name: /^tagged .*knots/ })
        .first()
        .waitFor();
      // The other pictures show the demo as it came.
      return async () => {
        await undo();
        await undo();
      };
    },
  },
  {
    file: "cutouts.png",
    go: async (page, url) => {
      const id = await collectionId(url, racks);
      await page.goto(`${url}/c/${id}/stock?show=cutouts`);
      await page.getByRole("gridcell").first().locator("img").waitFor();
    },
  },
  {
    file: "ledger.png",
    go: (page, url) => withLedger(page, url),
  },
  {
    file: "bench.png",
    go: (page, url) =>
      withNineTrays(page, url, async () => {
        // A box is being drawn.
        await page.keyboard.press("2");
        const at = await placesOn(page, { width: 1, height: 1 });
        await page.mouse.move(...at(0.42, 0.4));
        await page.mouse.down();
        await page.mouse.move(...at(0.55, 0.52), { steps: 4 });
      }),
  },
  {
    file: "bench-propose.png",
    go: (page, url) =>
      withNineTrays(page, url, async ({ outlines, size }) => {
        const middle = await placesOn(page, size);
        await page.mouse.move(...middle(size.width / 2, size.height / 2));
        for (let n = 0; n < 2; n++) await page.mouse.wheel(0, -120);
        await page.keyboard.type("lf");
        const at = await placesOn(page, size);
        const inMiddle = outlines.filter(
          ({ x, y, width, height }) =>
            x > size.width / 3 &&
            y > size.height / 3 &&
            x + width < (2 * size.width) / 3 &&
            y + height < (2 * size.height) / 3,
        );
        const [first, second] = inMiddle.sort((a, b) => b.width * b.height - a.width * a.height);
        const around = async ({ x, y, width, height }: Outline) => {
          await page.keyboard.press(";");
          await page.mouse.move(...at(x - 4, y - 4));
          await page.mouse.down();
          await page.mouse.move(...at(x + width + 4, y + height + 4), { steps: 4 });
          await page.mouse.up();
          await page.getByText("Click what belongs to it").waitFor();
        };
        if (!first || !second) throw new Error("the tray in the middle holds too little");
        await around(first);
        await page.keyboard.press("Shift+Enter");
        await page.getByText("Click what belongs to it").waitFor({ state: "detached" });
        await around(second);
      }),
  },
  { file: "classes.png", go: station("classes") },
  { file: "checks.png", go: station("checks") },
  ...(["split", "augment", "pack"] as const).map((step): View => ({
    file: `plan-${step}.png`,
    go: async (page, url) => {
      const id = await collectionId(url, racks);
      await page.goto(`${url}/c/${id}/plans/${await firstOf(url, `/api/collections/${id}/plans`)}?step=${step}`);
    },
  })),
  { file: "versions.png", go: station("versions") },
  { file: "version.png", go: station("versions/2") },
  { file: "compare.png", go: station("versions/compare") },
];

/** The ledger of a collection of its own, some of it filled in. */
async function withLedger(page: Page, url: string): Promise<() => Promise<void>> {
  return withCollection(url, "Tray notes", async (id) => {
    const send = async (address: string, body: object) => {
      const answer = await fetch(`${url}/api/collections/${id}/${address}`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify(body),
      });
      if (!answer.ok) throw new Error(await answer.text());
    };
    await page.goto(`${url}/c/${id}/deliveries`);
    await page.getByRole("button", { name: "Bring from elsewhere" }).click();
    await page.getByRole("menuitem", { name: "The shelf of samples" }).click();
    await page.getByRole("button", { name: "Take this one: Rack sampler" }).click();
    await page.getByRole("button", { name: /^Take in/ }).waitFor();
    const delivery = page.url().split("/").pop() ?? "";
    // What is staged goes when it is taken in, and its pictures with it: the page looks elsewhere meanwhile.
    await page.goto(url);
    await fetch(`${url}/api/deliveries/${delivery}/take-in`, { method: "POST" });
    for (let status = ""; status !== "taken"; await page.waitForTimeout(200))
      ({ status } = (await (await fetch(`${url}/api/deliveries/${delivery}`)).json()) as { status: string });
    const choice = { kind: "choice", values: ["pale", "golden", "dark"] };
    await send("ledger/columns", { do: "add", attribute: { ...choice, name: "bake" } });
    await send("ledger/columns", { do: "add", attribute: { kind: "yes-no", name: "steamed" } });
    const { rows } = (await (await fetch(`${url}/api/collections/${id}/ledger?start=0&limit=6`)).json()) as {
      rows: { id: number }[];
    };
    await send(
      "ledger",
      rows.flatMap((row, n) => [
        { image: row.id, column: "attribute:bake", value: choice.values[n % 3], before: null },
        { image: row.id, column: "attribute:steamed", value: n % 2 === 0, before: null },
        ...(n % 3 === 0 ? [{ image: row.id, column: "tags", value: ["second oven"], before: null }] : []),
      ]),
    );
    await page.goto(`${url}/c/${id}/stock?show=ledger`);
    await page.getByRole("gridcell").nth(9).waitFor();
    await page.getByRole("grid", { name: "Ledger" }).focus();
    await page.keyboard.press("End");
    await page.keyboard.press("ArrowLeft");
    for (let n = 0; n < 6; n++) await page.keyboard.press("ArrowDown");
    await page.keyboard.type("gol");
  });
}

/** Pictures of the main views; `only` narrows by a part of the file's name, `folder` sends them elsewhere. */
export async function shots(
  root: string,
  { only = "", folder = path.join(root, "docs", "screenshots"), size = { width: 1280, height: 800 } } = {},
): Promise<void> {
  const { host, port } = settings();
  const url = `http://${host}:${port}`;
  mkdirSync(folder, { recursive: true });
  for (const dark of [false, true]) {
    const wanted = views.filter((view) => (view.dark ?? false) === dark && view.file.includes(only));
    if (wanted.length === 0) continue;
    const { context, close } = await openBrowser({ dark, ...size });
    try {
      const page = await context.newPage();
      const troubles: string[] = [];
      page.on("pageerror", (error) => troubles.push(error.message));
      page.on("console", (message) => message.type() === "error" && troubles.push(message.text()));
      for (const view of wanted) {
        const after = await view.go(page, url);
        // A picture of a page that is still fetching, or in trouble, is none of the view.
        await page.waitForTimeout(800);
        await page
          .getByText(/^Fetching/)
          .first()
          .waitFor({ state: "hidden" });
        await page.waitForTimeout(1000);
        await page.waitForFunction(() =>
          [...document.images].every(
            (image) =>
              image.complete ||
              // Folded away, or further down.
              !image.checkVisibility() ||
              image.getBoundingClientRect().top > window.innerHeight,
          ),
        );
        if (troubles.length > 0) throw new Error(`${view.file}: ${troubles.join("; ")}`);
        await page.screenshot({ path: path.join(folder, view.file) });
        console.log(view.file);
        if (after) {
          await page.goto(url);
          await after();
        }
      }
    } finally {
      await close();
    }
  }
}
