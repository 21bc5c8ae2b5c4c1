/** A stocktake as a person takes it: a finding, its pictures, mended, gone, undone, back; dismissed; another threshold. */
import { v7 as uuidV7 } from "uuid";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { violations } from "./accessible";
import { openBenchPage, type BenchPage } from "./bench-page";

let bench: BenchPage;
beforeAll(async () => {
  bench = await openBenchPage();
  const { collection, images, json, post } = bench;
  const [roll] = await json<{ id: number }[]>(`/api/collections/${collection}/classes`);
  const draw = async (image: number, ...boxes: [number, number, number, number][]) => {
    const steps = boxes.map(([x, y, width, height], order) => ({
      do: "add-object",
      object: { uid: uuidV7(), class: roll?.id, order, shape: { kind: "box", x, y, width, height } },
    }));
    await post(`/api/collections/${collection}/steps`, [{ image, revision: 0, steps }]);
  };
  await draw(images[0] as number, [20, 20, 60, 60], [21, 20, 60, 60], [200, 100, 3, 40]);
  await draw(images[1] as number, [20, 20, 60, 60], [120, 90, 2, 2]);
});
afterAll(() => bench?.close());

const finding = (sentence: string) =>
  bench.page.getByRole("list", { name: "Findings" }).getByRole("listitem").filter({ hasText: sentence }).first();
const one = "1 object is fewer than 4 pixels wide or high.";
const tiny = "2 objects are fewer than 4 pixels wide or high.";

describe("checks", () => {
  it("show a finding with its pictures, open them on the bench, and mend it in one act that is undone", async () => {
    const { page, larder, collection, images, shapes } = bench;
    await page.goto(`${larder.url}/c/${collection}/checks`);
    await finding(tiny).waitFor();
    await finding("1 object was drawn twice.").waitFor();
    await finding(tiny)
      .getByRole("link", { name: /plain_0\.png, 1 marked/ })
      .waitFor();
    expect(await violations(page)).toBe("");
    await finding(tiny).getByRole("button", { name: "All pictures" }).click();
    await finding(tiny).getByRole("link", { name: "Mend them on the bench" }).click();
    await page.waitForURL(new RegExp(`/bench/${images[0]}`));
    await page.getByRole("heading", { name: "plain_0.png" }).waitFor();
    await page.goBack();
    await page.goto(`${larder.url}/c/${collection}/checks`);
    await finding(tiny).getByRole("button", { name: "Remove these objects" }).click();
    const dialog = page.getByRole("dialog", { name: "Remove these objects" });
    await dialog.getByText("This changes 2 images, as one act that can be undone.").waitFor();
    await dialog.getByRole("button", { name: "Remove these objects" }).click();
    await finding(tiny).waitFor({ state: "detached" });
    expect([await shapes(images[0] as number), await shapes(images[1] as number)].map(({ length }) => length)).toEqual([
      2, 1,
    ]);
    await page.getByRole("button", { name: "Undo" }).click();
    await finding(tiny).waitFor();
    expect(await shapes(images[0] as number)).toHaveLength(3);
  });

  it("say nothing more of one picture, and then of the whole, once somebody says why; and say it again", async () => {
    const { page } = bench;
    await finding(tiny).getByRole("button", { name: "All pictures" }).click();
    await page.getByRole("button", { name: "fine: plain_1.png" }).click();
    await page.getByLabel("Why").fill("a crumb");
    await page.keyboard.press("Enter");
    await finding(one).waitFor();
    await finding(one).getByRole("button", { name: "Dismiss" }).click();
    await page.getByLabel("Why").fill("sesame is small");
    await page.keyboard.press("Enter");
    await finding(one).waitFor({ state: "detached" });
    await page.getByText("box-tiny: sesame is small").waitFor();
    await page.getByText("box-tiny, one image: a crumb").waitFor();
    await page.getByRole("button", { name: "Say it again" }).first().click();
    await finding(one).waitFor();
  });

  it("go by a threshold that is set where it is explained", async () => {
    const { page } = bench;
    const twice = "1 object was drawn twice.";
    await finding(twice).getByRole("button", { name: "How it is found" }).click();
    const popover = page.getByRole("dialog", { name: "How object-duplicate is found" });
    await popover.getByText("intersection over union").waitFor();
    await popover.getByLabel("Threshold in % overlap").fill("99");
    await popover.getByRole("button", { name: "Set" }).click();
    await finding(twice).waitFor({ state: "detached" });
  });

  it("count what is in the stock, with a table behind each chart that leads to its images", async () => {
    const { page } = bench;
    const numbers = page.getByRole("region", { name: "In numbers" });
    await numbers.getByRole("button", { name: "Objects" }).click();
    await numbers.getByRole("img", { name: /^Objects an image: 0 3, 1 0, 2 1, 3 1,/ }).waitFor();
    await numbers.getByText("As a table").first().click();
    expect(await violations(page)).toBe("");
    await numbers
      .getByRole("table", { name: "Objects an image" })
      .getByRole("link", { name: "3", exact: true })
      .click();
    await page.waitForURL(/where=objects\+%3D\+3/);
    await page.getByText("1 of 5 images").waitFor();
    await page.goBack();
    await numbers.getByRole("button", { name: "Classes" }).click();
    await numbers.getByRole("table", { name: "Images that hold both" }).getByRole("link", { name: "2" }).waitFor();
    await numbers.getByLabel("Class of the heat map").waitFor();
    await numbers.getByRole("button", { name: "Deliveries" }).click();
    await numbers.getByRole("group", { name: "Deliveries side by side" }).getByRole("link").waitFor();
    expect(bench.errors).toEqual([]);
  });

  it("keep a plan from being built: a gate is set, closed, said, and opened by a mend", async () => {
    const { page, larder, collection, post } = bench;
    const { id: plan } = await post(`/api/collections/${collection}/plans`, { name: "Gated" });
    await post(
      `/api/plans/${plan as number}`,
      { body: { select: { states: ["unlabeled"] }, split: { ratio: { train: 1 } } } },
      "PATCH",
    );
    await page.goto(`${larder.url}/c/${collection}/plans/${plan as number}`);
    const gates = page.getByRole("region", { name: "Gates" });
    const build = page.getByRole("button", { name: /^Build v/ });
    await gates.getByText("none: whatever is found, it is built").waitFor();
    await expect.poll(() => build.isEnabled()).toBe(true);
    await gates.getByRole("button", { name: "Add a gate" }).click();
    await page.getByRole("button", { name: /^box tiny/ }).click();
    await gates.getByText("box tiny: 1 found, none allowed").waitFor();
    await page.getByRole("alert").getByText(one).waitFor();
    expect(await build.isEnabled()).toBe(false);
    expect(await violations(page)).toBe("");
    // The other one was said to be fine. One is let through.
    await gates.getByText("box tiny: 1 found").click();
    const gate = page.getByRole("dialog", { name: "Gate box tiny" });
    await gate.getByLabel("Let through up to").fill("1");
    await page.keyboard.press("Escape");
    await gates.getByText("box tiny: 1 found, up to 1 allowed").waitFor();
    await expect.poll(() => build.isEnabled()).toBe(true);
    await gates.getByRole("link", { name: "Check what it leaves" }).click();
    await page.getByText("leaves of the stock, before pictures are resized and copied").waitFor();
    await finding(one).waitFor();
    await page.getByRole("link", { name: "Gated" }).click();
    await page.getByRole("button", { name: "YAML" }).click();
    await page.getByText("box-tiny: 1").waitFor();
  });
});
