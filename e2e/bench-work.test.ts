/** The bench over hours of work: rows, names, suggestions, what goes wrong meanwhile. */
import { v7 as uuidV7 } from "uuid";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { violations } from "./accessible";
import { openBenchPage, type BenchPage } from "./bench-page";

let bench: BenchPage;
beforeAll(async () => {
  bench = await openBenchPage();
});
afterAll(() => bench?.close());

type Class = { id: number; name: string; code: string };
const classes = () => bench.json<Class[]>(`/api/collections/${bench.collection}/classes`);
const classNamed = async (name: string) => (await classes()).find((one) => one.name === name)?.id ?? 0;
const image = (n: number) => bench.images[n] as number;

/** Gives an image labels as another program would. */
async function label(id: number, steps: readonly unknown[]): Promise<void> {
  const { revision } = await bench.json<{ revision: number }>(`/api/collections/${bench.collection}/bench/${id}`);
  await bench.post(`/api/collections/${bench.collection}/steps`, [{ image: id, revision, steps }]);
}
const box = (x: number, y: number, width = 40, height = 30) => ({ kind: "box", x, y, width, height });

describe("the bench", () => {
  it("opens a selection at its first image, marks its station, and says where nothing is selected", async () => {
    const { page, larder, collection } = bench;
    await page.goto(`${larder.url}/c/${collection}/stock`);
    await page.getByRole("link", { name: "Mend on the bench" }).click();
    await page.waitForURL(new RegExp(`/bench/${image(0)}`));
    await page
      .getByRole("link", { name: "5 in stock", exact: false })
      .and(page.locator("[aria-current=page]"))
      .waitFor();
    await page.goto(`${larder.url}/c/${collection}/deliveries`);
    await page.locator(`a[href^="/c/${collection}/deliveries/"]`).first().click();
    await page.getByRole("link", { name: "Label it on the bench" }).click();
    await page.waitForURL(new RegExp(`/bench/${image(0)}\\?where=delivery`));
    await page.goto(`${larder.url}/c/${collection}/bench?where=tag+%3D+nothing`);
    await page.getByText("There is nothing in this selection to be mended.").waitFor();
  });

  it("takes a code as typed to its end, and keeps tool and class from image to image", async () => {
    const { page, open, placed, drag, shapes, labelsOf } = bench;
    const loaf = (await classes()).find(({ name }) => name === "loaf");
    const at = await open(image(0));
    await page.keyboard.type((loaf?.code ?? "").toLowerCase());
    await page.keyboard.press("2");
    await drag(at(20, 20), at(60, 50));
    await expect.poll(() => shapes(image(0))).toHaveLength(1);
    await page.keyboard.press("Escape");
    await page.keyboard.press("PageDown");
    await page.getByRole("heading", { name: "plain_1.png" }).waitFor();
    const there = await placed();
    await drag(there(30, 30), there(90, 80));
    await expect.poll(() => shapes(image(1))).toHaveLength(1);
    expect((await labelsOf(image(1))).objects[0]?.class).toBe(loaf?.id);
  });

  it("cuts a hole into an area, scales it by what is typed, and types the numbers of its box", async () => {
    const { page, open, shapes } = bench;
    const at = await open(image(1));
    await page.keyboard.press(".");
    await page.keyboard.press("'");
    for (const place of [at(50, 45), at(70, 45), at(70, 65), at(50, 65)]) await page.mouse.click(...place);
    await page.keyboard.press("Enter");
    await expect.poll(async () => (await shapes(image(1)))[0]?.kind).toBe("polygon");
    const rings = ((await shapes(image(1)))[0]?.["parts"] as number[][][])[0];
    expect(rings).toHaveLength(2);
    const area = (ring: number[] = []) =>
      Math.abs(
        ring.reduce((sum, x, i) => {
          if (i % 2 === 1) return sum;
          const [y, nx, ny] = [ring[i + 1], ring[(i + 2) % ring.length], ring[(i + 3) % ring.length]] as [
            number,
            number,
            number,
          ];
          return sum + (x * ny - nx * y) / 2;
        }, 0),
      );
    expect(area(rings?.[1])).toBeCloseTo(20 * 20, -1);
    await page.getByRole("button", { name: "Change it" }).click();
    await page.getByRole("menuitem", { name: "Scale it" }).click();
    await page.getByRole("spinbutton", { name: "To % of its size" }).fill("50");
    await page.getByRole("button", { name: "Scale it" }).click();
    await expect
      .poll(async () => area(((await shapes(image(1)))[0]?.["parts"] as number[][][])[0]?.[0]))
      .toBeCloseTo((60 * 50) / 4, -1.5);
    const width = page.getByRole("region", { name: "The chosen object" }).getByLabel("width");
    await width.fill("60");
    await width.press("Enter");
    await expect
      .poll(async () => {
        const ring = ((await shapes(image(1)))[0]?.["parts"] as number[][][])[0]?.[0] ?? [];
        const xs = ring.filter((_, i) => i % 2 === 0);
        return Math.max(...xs) - Math.min(...xs);
      })
      .toBeCloseTo(60, 1);
  });

  it("asks for what is required before one goes on", async () => {
    const { page, open, post, labelsOf } = bench;
    await post(
      `/api/classes/${await classNamed("loaf")}/attributes`,
      [{ kind: "choice", name: "crust", required: true, values: ["soft", "hard"] }],
      "PUT",
    );
    await open(image(0));
    await page.keyboard.press("PageDown");
    const dialog = page.getByRole("dialog", { name: "1 object lacks what is required" });
    await dialog.getByText("loaf: crust").waitFor();
    expect(await violations(page)).toBe("");
    await dialog.getByRole("button", { name: "Fill it in" }).click();
    await page.getByRole("application").focus();
    await page.keyboard.press("\\");
    await page.keyboard.type("soft");
    await expect.poll(async () => (await labelsOf(image(0))).objects[0]?.attributes).toEqual({ crust: "soft" });
    await page.keyboard.press("Escape");
    await page.keyboard.press("PageDown");
    await page.getByRole("heading", { name: "plain_1.png" }).waitFor();
  });

  it("shows suggestions, takes one, refuses one, and mends one by moving it", async () => {
    const { page, open, placed, drag, labelsOf } = bench;
    const roll = await classNamed("roll");
    const uids = [uuidV7(), uuidV7(), uuidV7()];
    const suggestions = uids.map((uid, n) => ({
      do: "add-suggestion",
      suggestion: { uid, run: "first", class: roll, confidence: 0.8, shape: box(20 + 80 * n, 60) },
    }));
    await label(image(2), suggestions);
    await open(image(0));
    await page.keyboard.press("F6");
    // What is required of the image before was said already: the next with suggestions is two on.
    await page.getByRole("heading", { name: "plain_2.png" }).waitFor();
    await page.keyboard.press(".");
    await page.keyboard.press("+");
    await expect.poll(async () => (await labelsOf(image(2))).objects).toHaveLength(1);
    await page.keyboard.press("Escape");
    await page.keyboard.press(".");
    await page.keyboard.press(".");
    await page.keyboard.press("Delete");
    await expect
      .poll(async () => (await labelsOf(image(2))).suggestions.map(({ answer }) => answer ?? "open"))
      .toEqual(["taken", "refused", "open"]);
    const at = await placed();
    await drag(at(200, 75), at(210, 95));
    await expect
      .poll(async () => (await labelsOf(image(2))).suggestions.map(({ answer }) => answer))
      .toEqual(["taken", "refused", "mended"]);
    const [taken, mended] = (await labelsOf(image(2))).objects;
    expect(taken?.shape).toEqual(box(20, 60));
    expect([mended?.shape["x"], mended?.shape["y"]].map(Number).map(Math.round)).toEqual([190, 80]);
  });

  it("says that a picture cannot be decoded, and keeps its labels", async () => {
    const { page, larder, collection, labelsOf } = bench;
    await page.route(`**/api/images/${image(1)}/picture`, (route) =>
      route.fulfill({ contentType: "image/png", body: "no picture" }),
    );
    await page.goto(`${larder.url}/c/${collection}/bench/${image(1)}`);
    await page.getByRole("alert").getByText("its bytes cannot be decoded here").waitFor();
    await page.getByRole("list", { name: "Objects" }).getByText("loaf").waitFor();
    await page.unroute(`**/api/images/${image(1)}/picture`);
    expect((await labelsOf(image(1))).objects).toHaveLength(1);
  });

  it("draws an outline of 10,000 points, marks that it crosses itself, and mends it", async () => {
    const { page, open, shapes } = bench;
    const ring = Array.from({ length: 10_000 }, (_, i) => {
      const angle = (i / 10_000) * 4 * Math.PI;
      return [160 + (60 + 20 * Math.cos(angle / 2)) * Math.cos(angle), 120 + 60 * Math.sin(angle)];
    }).flat();
    const object = {
      uid: uuidV7(),
      class: await classNamed("roll"),
      order: 0,
      shape: { kind: "polygon", parts: [[ring]] },
    };
    await label(image(3), [{ do: "add-object", object }]);
    await open(image(3));
    await page.getByText("The outline crosses itself.").waitFor();
    await page.getByRole("button", { name: "Mend it" }).click();
    await page.getByText("The outline crosses itself.").waitFor({ state: "detached" });
    await expect.poll(async () => ((await shapes(image(3)))[0]?.["parts"] as unknown[]).length).toBeGreaterThan(0);
  });

  it("takes an act on many images back on the one image that is open", async () => {
    const { page, open, post, collection, labelsOf } = bench;
    await post(`/api/collections/${collection}/acts`, { where: "", act: { do: "tag", tag: "seen" } });
    await expect.poll(async () => (await labelsOf(image(4))).tags).toEqual(["seen"]);
    await open(image(4));
    await page.keyboard.press("Control+z");
    await expect.poll(async () => (await labelsOf(image(4))).tags).toEqual([]);
    expect((await labelsOf(image(3))).tags).toEqual(["seen"]);
  });

  it("says so where a class was dropped while one drew in it, and loses nothing else", async () => {
    const { page, open, drag, post, shapes } = bench;
    const at = await open(image(4));
    await post(`/api/collections/${bench.collection}/classes`, { text: "crumb", fileName: "names.txt" });
    const crumb = await classNamed("crumb");
    await page.getByRole("radio", { name: "crumb" }).click();
    await page.route("**/api/events*", (route) => route.abort());
    await page.keyboard.press("2");
    await page.route("**/api/collections/*/steps", async (route) => {
      await post(`/api/collections/${bench.collection}/acts`, { where: "", act: { do: "drop-class", class: crumb } });
      await expect.poll(() => classNamed("crumb")).toBe(0);
      await route.continue();
    });
    await drag(at(30, 30), at(80, 70));
    const dialog = page.getByRole("dialog", { name: "This was not saved" });
    await dialog.getByText("The class crumb was removed from this collection meanwhile.").waitFor();
    await page.unroute("**/api/collections/*/steps");
    await page.unroute("**/api/events*");
    await page.getByRole("button", { name: "Leave it as it stands there" }).click();
    await bench.saved();
    expect(await shapes(image(4))).toHaveLength(0);
  });

  it("goes on where it was when Larder is stopped and started in the middle", async () => {
    const { page, open, drag, larder, shapes } = bench;
    const at = await open(image(4));
    await page.keyboard.press("2");
    await larder.command(["down"]);
    await drag(at(40, 40), at(100, 90));
    await page.getByText(/Larder does not answer; 1 change kept in this browser/).waitFor();
    await larder.again();
    await bench.saved();
    await expect.poll(() => shapes(image(4))).toHaveLength(1);
    expect(bench.errors).toEqual([]);
  });
});
